<?php

declare(strict_types=1);

namespace Sorvel\App\Line;

use Doctrine\ORM\Mapping as ORM;

/** A walk over all records: which values are not what follows from other fields and records. */
#[ORM\Entity]
#[ORM\Table(name: 'line_check')]
class LineCheck
{
    #[ORM\Id]
    #[ORM\GeneratedValue]
    #[ORM\Column]
    private ?int $id = null; // @phpstan-ignore property.unusedType (Doctrine gives it)

    /** Whether what is found is brought into line */
    #[ORM\Column]
    private bool $mends;

    #[ORM\Column(name: 'person', length: 60)]
    private string $by;

    #[ORM\Column]
    private \DateTimeImmutable $at;

    /** running, done or stopped */
    #[ORM\Column(length: 20)]
    private string $stage = 'running';

    #[ORM\Column]
    private int $total;

    #[ORM\Column]
    private int $done = 0;

    /** @var list<array{type: string, field: string, kind: string, out: int, examples: list<array{record: string, is: mixed, should: mixed}>}> */
    #[ORM\Column(type: 'json')]
    private array $found = [];

    public function __construct(bool $mends, string $by, \DateTimeImmutable $at, int $total)
    {
        $this->mends = $mends;
        $this->by = $by;
        $this->at = $at;
        $this->total = $total;
    }

    public function id(): int
    {
        return (int) $this->id;
    }

    public function mends(): bool
    {
        return $this->mends;
    }

    public function isRunning(): bool
    {
        return $this->stage === 'running';
    }

    /** @return array<string, mixed> as the API shows it */
    public function toArray(): array
    {
        return ['check' => $this->id, 'mends' => $this->mends, 'by' => $this->by, 'at' => $this->at->format(\DATE_ATOM), 'stage' => $this->stage, 'total' => $this->total, 'done' => $this->done, 'found' => $this->found];
    }
}
