<?php

declare(strict_types=1);

namespace Sorvel\App\Machine;

use Doctrine\ORM\Mapping as ORM;
use Sorvel\App\People\Role;

/** What a machine signs in with: it acts for whoever made it, with at most their role. Only a digest of it is kept. */
#[ORM\Entity]
#[ORM\Table(name: 'machine_token')]
class MachineToken
{
    #[ORM\Id]
    #[ORM\GeneratedValue]
    #[ORM\Column]
    private ?int $id = null; // @phpstan-ignore property.unusedType (Doctrine gives it)

    #[ORM\Column(length: 100)]
    private string $name;

    #[ORM\Column(length: 64, unique: true, options: ['fixed' => true])]
    private string $digest;

    #[ORM\Column(length: 60)]
    private string $person;

    #[ORM\Column(length: 20, enumType: Role::class)]
    private Role $role;

    #[ORM\Column]
    private \DateTimeImmutable $madeAt;

    #[ORM\Column(nullable: true)]
    private ?\DateTimeImmutable $usedAt = null;

    public function __construct(string $name, string $secret, string $person, Role $role, \DateTimeImmutable $at)
    {
        $this->name = $name;
        $this->digest = self::digest($secret);
        $this->person = $person;
        $this->role = $role;
        $this->madeAt = $at;
    }

    public static function digest(string $secret): string
    {
        return hash('sha256', $secret);
    }

    public function is(string $secret): bool
    {
        return hash_equals($this->digest, self::digest($secret));
    }

    public function id(): int
    {
        return (int) $this->id;
    }

    public function person(): string
    {
        return $this->person;
    }

    public function role(): Role
    {
        return $this->role;
    }

    /** Once an hour is enough to tell whether it is still in use. */
    public function used(\DateTimeImmutable $at): bool
    {
        if ($this->usedAt !== null && $at->getTimestamp() - $this->usedAt->getTimestamp() < 3600) {
            return false;
        }
        $this->usedAt = $at;

        return true;
    }

    /** @return array{number: int, name: string, role: string, made_at: string, used_at: string|null} */
    public function toArray(): array
    {
        return ['number' => $this->id(), 'name' => $this->name, 'role' => $this->role->value, 'made_at' => $this->madeAt->format(\DATE_ATOM), 'used_at' => $this->usedAt?->format(\DATE_ATOM)];
    }
}
