<?php

declare(strict_types=1);

namespace Sorvel\App\Draft;

use Doctrine\ORM\Mapping as ORM;

/** One rule, table, type or sample of the rulebook being edited, as its tree in the open format. */
#[ORM\Entity]
#[ORM\Table(name: 'draft_part')]
#[ORM\UniqueConstraint(name: 'draft_part_key', columns: ['kind', 'part_key'])]
class DraftPart
{
    #[ORM\Id]
    #[ORM\GeneratedValue]
    #[ORM\Column]
    private ?int $id = null; // @phpstan-ignore property.unusedType (Doctrine gives it)

    #[ORM\Column(length: 10, enumType: PartKind::class)]
    private PartKind $kind;

    #[ORM\Column(name: 'part_key', length: 80)]
    private string $key;

    #[ORM\Column]
    private int $position;

    /** @var array<string, mixed> */
    #[ORM\Column(type: 'json')]
    private array $tree;

    #[ORM\Column(type: 'integer')]
    #[ORM\Version]
    private int $version = 1;

    #[ORM\Column(length: 60, nullable: true)]
    private ?string $changedBy;

    #[ORM\Column]
    private \DateTimeImmutable $changedAt;

    /** @param  array<string, mixed>  $tree */
    public function __construct(PartKind $kind, string $key, int $position, array $tree, ?string $by, \DateTimeImmutable $at)
    {
        $this->kind = $kind;
        $this->key = $key;
        $this->position = $position;
        $this->tree = $tree;
        $this->changedBy = $by;
        $this->changedAt = $at;
    }

    public function id(): ?int
    {
        return $this->id;
    }

    public function kind(): PartKind
    {
        return $this->kind;
    }

    public function key(): string
    {
        return $this->key;
    }

    public function position(): int
    {
        return $this->position;
    }

    public function version(): int
    {
        return $this->version;
    }

    /** @return array<string, mixed> */
    public function tree(): array
    {
        return $this->tree;
    }

    public function place(int $position): void
    {
        $this->position = $position;
    }

    /** @param  array<string, mixed>  $tree */
    public function become(array $tree, ?string $by, \DateTimeImmutable $at): void
    {
        $this->tree = $tree;
        $this->changedBy = $by;
        $this->changedAt = $at;
    }

    /** @return array<string, mixed> as the API shows it */
    public function toArray(): array
    {
        return ['kind' => $this->kind->value, 'key' => $this->key, 'version' => $this->version, 'tree' => (object) $this->tree, 'changed_by' => $this->changedBy, 'changed_at' => $this->changedAt->format(\DATE_ATOM)];
    }
}
