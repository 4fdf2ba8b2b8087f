<?php

declare(strict_types=1);

namespace Sorvel\Core\Rule;

use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Feel\Walk;
use Sorvel\Core\Table\Row;

/** Starts, a condition, look-ups, and a grid of check and change columns. */
final class Rule
{
    /** @var list<string> every field whose change can make it due */
    public readonly array $watches;

    /** @var list<string> kinds of its starts, each once */
    public readonly array $kinds;

    /** @var array<int, ChangeColumn> columns that are done once the record has settled */
    public readonly array $waiting;

    /** @var array<int, FieldChange> columns that change the record itself, at once */
    public readonly array $immediate;

    /** @var array<int, list<string>> by row, look-ups that its cells name and that may end the rule */
    public readonly array $needed;

    /**
     * @param  non-empty-list<string>  $on  types
     * @param  list<Start>  $starts
     * @param  array<string, LookUp>  $lookUps
     * @param  bool  $everyRow  every matching row acts, not only the first
     * @param  list<Formula>  $checks
     * @param  list<ChangeColumn>  $changes
     * @param  list<Row>  $rows
     * @param  string|null  $owner  the person who hears of its problems
     */
    public function __construct(
        public readonly string $key,
        public readonly string $title,
        public readonly array $on,
        public readonly bool $enabled,
        public readonly array $starts,
        public readonly ?Formula $onlyIf,
        public readonly array $lookUps,
        public readonly bool $everyRow,
        public readonly array $checks,
        public readonly array $changes,
        public readonly array $rows,
        public readonly Repeat $repeat = Repeat::Each,
        public readonly ?string $owner = null,
    ) {
        $this->watches = array_values(array_unique(array_merge(...array_map(fn (Start $s): array => $s->watches(), $starts), ...[[]])));
        $this->immediate = array_filter($changes, fn (ChangeColumn $c): bool => $c instanceof FieldChange && $c->of === null);
        $this->waiting = array_diff_key($changes, $this->immediate);
        $needed = [];
        foreach ($lookUps === [] ? [] : $rows as $number => $row) {
            foreach ($row->then as $column => $cell) {
                $change = $changes[$column] ?? null;
                foreach ($cell === null ? [] : [...($change instanceof FieldChange && $change->of !== null ? [$change->of] : []), ...Walk::names($cell->tree)] as $name) {
                    if (($lookUps[$name] ?? null)?->mayEndRule() === true) {
                        $needed[$number][] = $name;
                    }
                }
            }
        }
        $this->needed = $needed;
        $this->kinds = array_values(array_unique(array_map(fn (Start $s): string => $s->kind(), $starts)));
    }

    /** @return list<Formula> every formula in it, but for the tests of its check cells */
    public function formulas(): array
    {
        $formulas = [$this->onlyIf, ...$this->checks];
        foreach ($this->lookUps as $lookUp) {
            array_push($formulas, $lookUp->value, $lookUp->where, $lookUp->order, $lookUp->use);
        }
        foreach ($this->changes as $change) {
            array_push($formulas, ...($change instanceof ActionChange ? $change->formulas() : []));
        }
        foreach ($this->starts as $start) {
            $formulas[] = $start instanceof AtStart ? $start->for : null;
        }
        foreach ($this->rows as $row) {
            array_push($formulas, ...$row->then);
        }

        return array_values(array_filter($formulas));
    }

    /**
     * The same with something else in it; what is null stays.
     *
     * @param  list<Start>|null  $starts
     * @param  list<ChangeColumn>|null  $changes
     * @param  list<Row>|null  $rows
     */
    public function with(?bool $enabled = null, ?array $starts = null, ?Formula $onlyIf = null, ?array $changes = null, ?array $rows = null, bool $withoutCondition = false): self
    {
        return new self(
            $this->key, $this->title, $this->on, $enabled ?? $this->enabled, $starts ?? $this->starts, $withoutCondition ? null : $onlyIf ?? $this->onlyIf, $this->lookUps,
            $this->everyRow, $this->checks, $changes ?? $this->changes, $rows ?? $this->rows, $this->repeat, $this->owner,
        );
    }

    public function byHand(): ?ByHandStart
    {
        foreach ($this->starts as $start) {
            if ($start instanceof ByHandStart) {
                return $start;
            }
        }

        return null;
    }
}
