<?php

declare(strict_types=1);

namespace Sorvel\App\Draft;

use Doctrine\ORM\Mapping as ORM;
use Sorvel\Core\Finding\Rename;

/** A new key of a field or an option. Live records follow it when the draft is published. Append only. */
#[ORM\Entity]
#[ORM\Table(name: 'key_change')]
#[ORM\Index(name: 'key_change_by_edition', columns: ['edition'])]
class KeyChange
{
    #[ORM\Id]
    #[ORM\GeneratedValue]
    #[ORM\Column]
    private ?int $id = null; // @phpstan-ignore property.unusedType, property.onlyWritten (Doctrine gives it)

    #[ORM\Column(length: 60)]
    private string $type;

    #[ORM\Column(length: 60)]
    private string $field;

    /** Its key before; null when it is the field's key that changes */
    #[ORM\Column(name: 'option_key', length: 60, nullable: true)]
    private ?string $option;

    #[ORM\Column(name: 'new_key', length: 60)]
    private string $to;

    #[ORM\Column(length: 60, nullable: true)]
    private ?string $changedBy;

    #[ORM\Column]
    private \DateTimeImmutable $changedAt;

    /** The edition that it came into force with; null while it stands in the draft */
    #[ORM\Column(nullable: true)]
    private ?int $edition = null;

    public function __construct(Rename $rename, ?string $by, \DateTimeImmutable $at)
    {
        $this->type = $rename->type;
        $this->field = $rename->field;
        $this->option = $rename->option;
        $this->to = $rename->to;
        $this->changedBy = $by;
        $this->changedAt = $at;
    }

    public function rename(): Rename
    {
        return new Rename($this->type, $this->field, $this->option, $this->to);
    }

    public function edition(): ?int
    {
        return $this->edition;
    }

    public function comesIntoForce(int $edition): void
    {
        $this->edition = $edition;
    }

    /** @return array{by: string|null, at: string} */
    public function who(): array
    {
        return ['by' => $this->changedBy, 'at' => $this->changedAt->format(\DATE_ATOM)];
    }
}
