<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

use Sorvel\Core\Model\Record;

/** What an event came to. */
final class Outcome
{
    /**
     * @param  Record|null  $before  null for a creation
     * @param  Record  $record  settled; when refused, as it was before
     * @param  list<array{field: string, reason: string}>  $refused  every reason why the save is turned down
     * @param  list<array{rule: string|null, field: string|null, message: string}>  $problems
     * @param  Hits  $hits  how far rules got that were due, rows that were hit and check cells that were seen
     * @param  array<string, array<int, int>>  $tableRows  by table, row to how often it was hit
     * @param  list<array{field: string, before: mixed, after: mixed, rule: string|null}>  $changes  each change in order, plain data; rule null for the event's own
     * @param  array<string, mixed>  $trace  plain data; empty at outcome level
     * @param  array<string, list<mixed>>  $probed  by rule, what the formulas that were asked for came to, plain data
     * @param  list<string>  $guards  keys of those that turned something down or emptied a field
     * @param  list<Action>  $actions  what rules want done beside the record, in order
     * @param  array<string, string>  $turns  who was given a turn, by team
     * @param  list<string>  $mirrors  keys of those that changed their field
     */
    public function __construct(
        public readonly ?Record $before,
        public readonly Record $record,
        public readonly array $refused,
        public readonly array $problems,
        public readonly Hits $hits,
        public readonly array $tableRows,
        public readonly array $changes,
        public readonly array $trace,
        public readonly array $probed = [],
        public readonly array $guards = [],
        public readonly bool $deleted = false,
        public readonly array $actions = [],
        public readonly array $turns = [],
        public readonly array $mirrors = [],
    ) {
    }

    /** @return array<string, RuleStatus> by key, rules that were due, in running order */
    public function rules(): array
    {
        return $this->hits->rules();
    }

    /** @param  list<array{rule: string|null, field: string|null, message: string}>  $problems  found after it settled */
    public function withProblems(array $problems): self
    {
        $all = [...$this->problems, ...$problems];

        return new self($this->before, $this->record, $this->refused, $all, $this->hits, $this->tableRows, $this->changes, $this->trace === [] ? [] : ['problems' => $all] + $this->trace, $this->probed, $this->guards, $this->deleted, $this->actions, $this->turns, $this->mirrors);
    }

    /**
     * The record is no longer there, or stays; what it was stands as before and after.
     *
     * @param  list<array{field: string, reason: string}>  $holding  why the record stays, beside what rules say
     */
    public function ofDeletion(array $holding): self
    {
        $refused = [...$holding, ...$this->refused];
        $record = $this->before ?? $this->record;

        return new self($record, $record, $refused, $this->problems, $this->hits, $this->tableRows, [], $this->trace === [] ? [] : ['changes' => [], 'refused' => $refused] + $this->trace, $this->probed, $this->guards, $refused === [], $refused === [] ? $this->actions : [], $refused === [] ? $this->turns : [], $this->mirrors);
    }

    /** Whether there is something to keep: fields, or what is kept beside them. */
    public function isChange(): bool
    {
        return $this->changes !== [] || $this->actions !== [] || $this->before?->value(Record::ONCE) !== $this->record->value(Record::ONCE);
    }

    public function isRefused(): bool
    {
        return $this->refused !== [];
    }
}
