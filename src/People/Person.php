<?php

declare(strict_types=1);

namespace Sorvel\App\People;

use Doctrine\ORM\Mapping as ORM;
use Symfony\Component\Security\Core\User\PasswordAuthenticatedUserInterface;
use Symfony\Component\Security\Core\User\UserInterface;

#[ORM\Entity]
#[ORM\Table(name: 'person')]
class Person implements PasswordAuthenticatedUserInterface, UserInterface
{
    #[ORM\Id]
    #[ORM\Column(name: 'id', length: 60)]
    private string $key;

    #[ORM\Column(length: 200)]
    private string $name;

    #[ORM\Column(length: 190, unique: true)]
    private string $email;

    #[ORM\Column(length: 255, nullable: true)]
    private ?string $password = null;

    #[ORM\Column(length: 20, enumType: Role::class)]
    private Role $role;

    #[ORM\Column]
    private bool $active;

    #[ORM\Column]
    private bool $away;

    public function __construct(string $key, string $name, string $email, Role $role, bool $active = true, bool $away = false)
    {
        $this->key = $key;
        $this->name = $name;
        $this->email = $email;
        $this->role = $role;
        $this->active = $active;
        $this->away = $away;
    }

    public function key(): string
    {
        return $this->key;
    }

    public function name(): string
    {
        return $this->name;
    }

    public function email(): string
    {
        return $this->email;
    }

    public function role(): Role
    {
        return $this->role;
    }

    public function isActive(): bool
    {
        return $this->active;
    }

    public function takePassword(string $hash): void
    {
        $this->password = $hash;
    }

    public function getPassword(): ?string
    {
        return $this->password;
    }

    /** The same person with a lower role, for one request; it is never kept. */
    public function inRole(Role $role): self
    {
        $person = clone $this;
        $person->role = $role;

        return $person;
    }

    public function getRoles(): array
    {
        return [$this->role->security()];
    }

    /** @return non-empty-string */
    public function getUserIdentifier(): string
    {
        return $this->email === '' ? throw new \LogicException('A person has an email address.') : $this->email;
    }

    public function eraseCredentials(): void
    {
    }

    /** @return array<string, mixed> as a rulebook lists people */
    public function tree(): array
    {
        return ['key' => $this->key, 'name' => $this->name, 'email' => $this->email, 'role' => $this->role->value, 'active' => $this->active, 'away' => $this->away];
    }
}
