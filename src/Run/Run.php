<?php

declare(strict_types=1);

namespace Sorvel\App\Run;

use Doctrine\ORM\Mapping as ORM;

/** One live event with what came of it. Append only. */
#[ORM\Entity(readOnly: true)]
#[ORM\Table(name: 'run')]
#[ORM\Index(name: 'run_of_record', columns: ['record', 'id'])]
class Run
{
    #[ORM\Id]
    #[ORM\GeneratedValue]
    #[ORM\Column]
    private ?int $id = null; // @phpstan-ignore property.unusedType (Doctrine gives it)

    #[ORM\Column(length: 40)]
    private string $record;

    #[ORM\Column(length: 60)]
    private string $type;

    #[ORM\Column(length: 20)]
    private string $kind;

    #[ORM\Column(name: 'person', length: 60, nullable: true)]
    private ?string $by;

    #[ORM\Column]
    private \DateTimeImmutable $at;

    #[ORM\Column(nullable: true)]
    private ?int $edition;

    /** @var array<string, mixed> values that came in */
    #[ORM\Column(type: 'json')]
    private array $incoming;

    /** @var array<string, mixed>|null values before; null for a creation */
    #[ORM\Column(name: 'values_before', type: 'json', nullable: true)]
    private ?array $before;

    /** @var array<string, mixed> values after */
    #[ORM\Column(name: 'values_after', type: 'json')]
    private array $after;

    /** @var list<array<string, mixed>> */
    #[ORM\Column(type: 'json')]
    private array $changes;

    /** @var array<string, string> status by rule */
    #[ORM\Column(type: 'json')]
    private array $rules;

    /** @var list<array<string, mixed>> */
    #[ORM\Column(type: 'json')]
    private array $problems;

    /** @var array<string, mixed> */
    #[ORM\Column(type: 'json')]
    private array $trace;

    #[ORM\Column]
    private float $ms;

    /**
     * @param  array<string, mixed>  $incoming
     * @param  array<string, mixed>|null  $before
     * @param  array<string, mixed>  $after
     * @param  list<array<string, mixed>>  $changes
     * @param  array<string, string>  $rules
     * @param  list<array<string, mixed>>  $problems
     * @param  array<string, mixed>  $trace
     */
    public function __construct(string $record, string $type, string $kind, ?string $by, \DateTimeImmutable $at, ?int $edition, array $incoming, ?array $before, array $after, array $changes, array $rules, array $problems, array $trace, float $ms)
    {
        $this->record = $record;
        $this->type = $type;
        $this->kind = $kind;
        $this->by = $by;
        $this->at = $at;
        $this->edition = $edition;
        $this->incoming = $incoming;
        $this->before = $before;
        $this->after = $after;
        $this->changes = $changes;
        $this->rules = $rules;
        $this->problems = $problems;
        $this->trace = $trace;
        $this->ms = $ms;
    }

    public function edition(): ?int
    {
        return $this->edition;
    }

    public function record(): string
    {
        return $this->record;
    }

    public function type(): string
    {
        return $this->type;
    }

    public function isCreation(): bool
    {
        return $this->kind === 'created';
    }

    public function by(): ?string
    {
        return $this->by;
    }

    public function at(): \DateTimeImmutable
    {
        return $this->at;
    }

    /** @return array<string, mixed> */
    public function incoming(): array
    {
        return $this->incoming;
    }

    /** @return array<string, mixed> */
    public function before(): array
    {
        return $this->before ?? [];
    }

    /** @return array<string, mixed> */
    public function after(): array
    {
        return $this->after;
    }

    /** @return list<array<string, mixed>> */
    public function changes(): array
    {
        return $this->changes;
    }

    /** @return array<string, string> */
    public function rules(): array
    {
        return $this->rules;
    }

    /** @return array<string, mixed> */
    public function trace(): array
    {
        return $this->trace;
    }

    /** @return array<string, mixed> as the API shows it */
    public function toArray(): array
    {
        return ['run' => $this->id, 'kind' => $this->kind, 'by' => $this->by, 'at' => $this->at->format(\DATE_ATOM), 'edition' => $this->edition, 'changes' => $this->changes, 'rules' => (object) $this->rules, 'problems' => $this->problems, 'ms' => $this->ms];
    }
}
