<?php

declare(strict_types=1);

namespace Sorvel\App\Run;

use Doctrine\ORM\Mapping as ORM;
use Sorvel\Core\Engine\RuleStatus;
use Sorvel\Core\Impact\PastEvent;

/** One live event with what came of it. Append only. */
#[ORM\Entity(readOnly: true)]
#[ORM\Table(name: 'run')]
#[ORM\Index(name: 'run_of_record', columns: ['record', 'id'])]
#[ORM\Index(name: 'run_wrong', columns: ['wrong', 'id'])]
#[ORM\Index(name: 'run_at', columns: ['at'])]
class Run
{
    #[ORM\Id]
    #[ORM\GeneratedValue]
    #[ORM\Column]
    private ?int $id = null;

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

    /** Whether something went wrong in it. */
    #[ORM\Column]
    private bool $wrong;

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
        $this->wrong = $problems !== [];
    }

    private ?PastEvent $past = null;

    /** What it read, to be kept with it. */
    public function readThrough(PastEvent $past): self
    {
        $this->past = $past;

        return $this;
    }

    public function past(): ?PastEvent
    {
        return $this->past;
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

    /** How long the core took, in milliseconds. */
    public function ms(): float
    {
        return $this->ms;
    }

    public function kind(): string
    {
        return $this->kind;
    }

    /** @return array<string, mixed>|null null where the event made the record */
    public function beforeOrNull(): ?array
    {
        return $this->before;
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

    /** @return list<array<string, mixed>> */
    public function problems(): array
    {
        return $this->problems;
    }

    /** @return array<string, mixed> */
    public function trace(): array
    {
        return $this->trace;
    }

    /**
     * What several events in a row made of one record, told as one.
     *
     * @param  non-empty-list<self>  $runs  of one record, first to last
     */
    public static function together(array $runs): self
    {
        [$first, $last] = [$runs[0], $runs[count($runs) - 1]];
        if ($first === $last) {
            return $first;
        }
        $changes = [];
        foreach ($runs as $run) {
            foreach ($run->changes as $change) {
                $field = is_string($change['field']) ? $change['field'] : '';
                $changes[$field] = isset($changes[$field]) ? ['before' => $changes[$field]['before']] + $change : $change;
            }
        }
        $rules = [];
        foreach ($runs as $run) {
            foreach ($run->rules as $rule => $status) {
                $rules[$rule] = isset($rules[$rule]) ? RuleStatus::from($rules[$rule])->and(RuleStatus::from($status))->value : $status;
            }
        }
        $problems = array_values(array_unique(array_merge(...array_map(fn (self $r): array => $r->problems, $runs)), SORT_REGULAR));
        $changes = array_values(array_filter($changes, fn (array $c): bool => ($c['before'] ?? null) !== ($c['after'] ?? null)));

        return new self($last->record, $last->type, $last->kind, $last->by, $last->at, $last->edition, $last->incoming, $first->before, $last->after, $changes, $rules, $problems, ['together' => count($runs), ...$last->trace], array_sum(array_map(fn (self $r): float => $r->ms, $runs)));
    }

    /** The number that the log has given it. */
    public function becomes(int $id): void
    {
        $this->id = $id;
    }

    public function number(): int
    {
        return $this->id ?? throw new \LogicException('Not in the log yet.');
    }

    /** @return array<string, float|int|string|null> by column, as {@see RunLog} writes it */
    public function row(): array
    {
        return [
            'record' => $this->record, 'type' => $this->type, 'kind' => $this->kind, 'person' => $this->by, 'at' => $this->at->format('Y-m-d H:i:s'), 'edition' => $this->edition,
            'incoming' => self::json($this->incoming), 'values_before' => $this->before === null ? null : self::json($this->before), 'values_after' => self::json($this->after), 'changes' => self::json($this->changes),
            'rules' => self::json($this->rules), 'problems' => self::json($this->problems), 'trace' => self::json($this->trace), 'ms' => $this->ms, 'wrong' => $this->wrong ? 1 : 0,
        ];
    }

    /** @param  array<array-key, mixed>  $data */
    private static function json(array $data): string
    {
        return json_encode($data, JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES | JSON_PRESERVE_ZERO_FRACTION | JSON_THROW_ON_ERROR);
    }

    /** @return array<string, mixed> as the API shows it */
    public function toArray(): array
    {
        return ['run' => $this->id, 'kind' => $this->kind, 'by' => $this->by, 'at' => $this->at->format(\DATE_ATOM), 'edition' => $this->edition, 'changes' => $this->changes, 'rules' => (object) $this->rules, 'problems' => $this->problems, 'ms' => $this->ms];
    }
}
