<?php

declare(strict_types=1);

namespace Sorvel\App\Import;

use Doctrine\ORM\Mapping as ORM;

/** A file of records on its way into a type. Its rows, with what becomes of each, are kept beside it. */
#[ORM\Entity]
#[ORM\Table(name: 'import')]
class Import
{
    #[ORM\Id]
    #[ORM\GeneratedValue]
    #[ORM\Column]
    private ?int $id = null; // @phpstan-ignore property.unusedType (Doctrine gives it)

    #[ORM\Column(length: 60)]
    private string $type;

    #[ORM\Column(length: 200)]
    private string $name;

    #[ORM\Column(name: 'person', length: 60)]
    private string $by;

    #[ORM\Column]
    private \DateTimeImmutable $at;

    #[ORM\Column(length: 20, enumType: Stage::class)]
    private Stage $stage = Stage::Read;

    /** @var list<string> */
    #[ORM\Column(type: 'json')]
    private array $columns;

    /** @var array<string, string> field by column */
    #[ORM\Column(type: 'json')]
    private array $matching;

    /** The field by which a row finds its record; null when every row is a new one */
    #[ORM\Column(name: 'key_field', length: 60, nullable: true)]
    private ?string $key = null;

    #[ORM\Column]
    private int $total;

    #[ORM\Column(length: 1000)]
    private string $problem = '';

    /**
     * @param  list<string>  $columns
     * @param  array<string, string>  $matching
     */
    public function __construct(string $type, string $name, string $by, \DateTimeImmutable $at, array $columns, array $matching)
    {
        $this->type = $type;
        $this->name = $name;
        $this->by = $by;
        $this->at = $at;
        $this->columns = $columns;
        $this->matching = $matching;
        $this->total = 0;
    }

    public function id(): int
    {
        return (int) $this->id;
    }

    public function type(): string
    {
        return $this->type;
    }

    public function by(): string
    {
        return $this->by;
    }

    public function stage(): Stage
    {
        return $this->stage;
    }

    /** @return list<string> */
    public function columns(): array
    {
        return $this->columns;
    }

    /** @return array<string, string> */
    public function matching(): array
    {
        return $this->matching;
    }

    public function key(): ?string
    {
        return $this->key;
    }

    public function holds(int $rows): void
    {
        $this->total = $rows;
    }

    /** @param  array<string, string>  $matching */
    public function match(array $matching, ?string $key): void
    {
        $this->matching = $matching;
        $this->key = $key;
    }

    public function reaches(Stage $stage, string $problem = ''): void
    {
        $this->stage = $stage;
        $this->problem = mb_strimwidth($problem, 0, 1000, '…');
    }

    /** @return array<string, mixed> as the API shows it, without its counts */
    public function toArray(): array
    {
        return ['import' => $this->id, 'type' => $this->type, 'name' => $this->name, 'by' => $this->by, 'at' => $this->at->format(\DATE_ATOM), 'stage' => $this->stage->value, 'columns' => $this->columns, 'matching' => (object) $this->matching, 'key' => $this->key, 'total' => $this->total, 'problem' => $this->problem];
    }
}
