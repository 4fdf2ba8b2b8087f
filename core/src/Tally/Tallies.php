<?php

declare(strict_types=1);

namespace Sorvel\Core\Tally;

use Brick\Math\BigDecimal;
use Sorvel\Core\Engine\CompiledRules;
use Sorvel\Core\Engine\Event;
use Sorvel\Core\Engine\EventScope;
use Sorvel\Core\Engine\Frame;
use Sorvel\Core\Engine\Outcome;
use Sorvel\Core\Feel\Number;
use Sorvel\Core\Feel\Warnings;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordStore;
use Sorvel\Core\Model\Rulebook;
use Sorvel\Core\Model\Viewer;

/** Keeps tallies right: by what was added and taken away where that is enough, else by going over those that count. */
final class Tallies
{
    private const MOST_ABOVE = 100;

    /** What is kept beside a tally of nothing: an empty list would be no value at all */
    private const NOTHING = ['' => 0];

    /** With more different values than this, a tally that needs them is counted anew each time */
    private const MOST_WEIGHTS = 1000;

    /** @var array<string, list<Field>> tally fields by the type that they count */
    private array $byType = [];

    /** @var array<string, Frame> by type, made when first needed */
    private array $frames = [];

    /** @var array<string, list<Field>> tally fields with descendants by the type that has them */
    private array $trees = [];

    public function __construct(private readonly Rulebook $rulebook)
    {
        foreach ($rulebook->types as $type) {
            foreach ($type->fields as $field) {
                if ($field->tally !== null) {
                    $this->byType[$field->tally->of][] = $field;
                    if ($field->tally->tree !== null) {
                        $this->trees[$type->key][] = $field;
                    }
                }
            }
        }
    }

    public function isEmpty(): bool
    {
        return $this->byType === [];
    }

    /**
     * The new values of tallies that what happened to some records has moved.
     *
     * @param  list<Outcome>  $outcomes
     * @param  RecordStore  $store  with these outcomes in it
     * @return array<string, array<string, mixed>> stored values by record id and field
     */
    public function moved(array $outcomes, RecordStore $store): array
    {
        $deltas = [];
        foreach ($outcomes as $outcome) {
            foreach ($this->byType[$outcome->record->type] ?? [] as $field) {
                /** @var Tally $tally */
                $tally = $field->tally;
                if (! isset($outcome->before->values[$tally->via]) && ! isset($outcome->record->values[$tally->via])) {
                    // it counts for nobody
                    continue;
                }
                $before = $outcome->before === null ? null : $this->contribution($tally, $outcome->before, $store);
                $after = $outcome->deleted ? null : $this->contribution($tally, $outcome->record, $store);
                $from = $outcome->before === null || $before === null ? [] : $this->holders($tally, $outcome->before, $store);
                $to = $after === null ? [] : $this->holders($tally, $outcome->record, $store);
                if ($from === $to && ($from === [] || Record::same($before, $after))) {
                    continue;
                }
                foreach ([[$from, $before, -1], [$to, $after, 1]] as [$holders, $value, $sign]) {
                    foreach ($holders as $id) {
                        $deltas[$id][$field->key][] = [$sign, $value];
                    }
                }
            }
        }
        foreach ($outcomes as $outcome) {
            foreach ($this->trees[$outcome->record->type] ?? [] as $field) {
                foreach ($this->branchMoved($field, $outcome, $store) as $id => $move) {
                    $deltas[$id][$field->key][] = $move;
                }
            }
        }
        $store->hold(array_map(strval(...), array_keys($deltas)));
        $values = [];
        foreach ($deltas as $id => $fields) {
            $record = $store->find((string) $id);
            if ($record === null) {
                continue;
            }
            foreach ($fields as $key => $moves) {
                $field = $this->rulebook->types[$record->type]->fields[$key];
                if ($field->tally?->measure->isRunning() === true) {
                    $values[(string) $id][$key] = self::run($record->value($key), $moves);
                } else {
                    $values[(string) $id] = [...$values[(string) $id] ?? [], ...$this->weighed($field, $record, $moves, $store)];
                }
            }
        }

        return $values;
    }

    /**
     * A record that hangs somewhere else in its tree takes all that lies below it along.
     *
     * @return array<string, array{int, mixed}> sign and what it brings, by the records above it, before and after
     */
    private function branchMoved(Field $field, Outcome $outcome, RecordStore $store): array
    {
        $tree = (string) $field->tally?->tree;
        $from = (array) $outcome->before?->value($tree);
        $to = $outcome->deleted ? [] : (array) $outcome->record->value($tree);
        if (array_filter($from) === array_filter($to)) {
            return [];
        }
        // what a branch brings to a count or a sum is known; for the others it is counted anew
        $isRunning = $field->tally?->measure->isRunning() === true;
        $brings = $isRunning ? $outcome->record->value($field->key) : null;
        [$before, $after] = [$this->above($tree, self::ids($from), $store), $this->above($tree, self::ids($to), $store)];

        return array_fill_keys(array_diff($before, $after), [$isRunning ? -1 : 0, $brings]) + array_fill_keys(array_diff($after, $before), [$isRunning ? 1 : 0, $brings]);
    }

    /**
     * A tally that does not follow from its last value: from what it weighs, kept beside it, or counted anew.
     *
     * @param  list<array{int, mixed}>  $moves  sign and value
     * @return array<string, mixed>
     */
    private function weighed(Field $field, Record $holder, array $moves, RecordStore $store): array
    {
        $weights = $holder->value(Record::beside($field->key));
        if (in_array(0, array_column($moves, 0), true)) {
            return $this->recounted($field, $holder, $store);
        }
        foreach (is_array($weights) ? $moves : [] as [$sign, $value]) {
            foreach (self::entries($value) as $entry) {
                $weights[$entry] = ($weights[$entry] ?? 0) + $sign;
                if ($weights[$entry] < 0) {
                    // what is kept beside it is not what is there: then it is counted anew
                    return $this->recounted($field, $holder, $store);
                }
                $weights = array_filter($weights) ?: self::NOTHING;
            }
        }

        return is_array($weights) ? self::told($field, $weights) : $this->recounted($field, $holder, $store);
    }

    /**
     * A tally from nothing, with what is kept beside it: how many times each value counts, while those are not too many.
     *
     * @return array<string, mixed> stored values by key
     */
    public function recounted(Field $field, Record $holder, RecordStore $store): array
    {
        $values = $this->contributions($field, $holder, $store);
        if ($field->tally?->measure->isRunning() === true) {
            return [$field->key => self::measured($field->tally->measure, $values)];
        }
        $weights = [];
        foreach ($values as $value) {
            foreach (self::entries($value) as $entry) {
                $weights[$entry] = ($weights[$entry] ?? 0) + 1;
            }
        }

        return self::told($field, $weights);
    }

    public function recount(Field $field, Record $holder, RecordStore $store): mixed
    {
        return $this->recounted($field, $holder, $store)[$field->key] ?? null;
    }

    /** @return list<mixed> what each record brings */
    private function contributions(Field $field, Record $holder, RecordStore $store): array
    {
        $tally = $field->tally ?? throw new \LogicException('Not a tally.');
        $holders = [$holder->id];
        if ($tally->tree !== null) {
            for ($wave = [$holder->id]; $wave !== [];) {
                $wave = array_values(array_diff($store->referring($holder->type, $tally->tree, $wave), $holders));
                array_push($holders, ...$wave);
            }
        }
        $values = [];
        foreach ($store->peek($store->referring($tally->of, $tally->via, $holders)) as $record) {
            $value = $this->contribution($tally, $record, $store);
            if ($value !== null) {
                $values[] = $value;
            }
        }

        return $values;
    }

    /** @return list<string> a value, or each of several, as a text that is the same for the same value; numbers can be read from it */
    private static function entries(mixed $value): array
    {
        return array_map(fn (mixed $one): string => $one instanceof BigDecimal || is_int($one) ? 'n'.Number::text($one) : 't'.(is_string($one) ? $one : (string) json_encode(Record::plain($one))), is_array($value) ? array_values($value) : [$value]);
    }

    /**
     * @param  array<array-key, mixed>  $weights  how many times each entry counts
     * @return array<string, mixed>
     */
    private static function told(Field $field, array $weights): array
    {
        $measure = $field->tally->measure ?? Measure::Count;
        $values = [];
        unset($weights['']);
        foreach ($weights as $entry => $count) {
            $entry = (string) $entry;
            $value = str_starts_with($entry, 'n') ? Number::of(substr($entry, 1)) : substr($entry, 1);
            $values[] = $value;
        }
        if ($measure === Measure::Average) {
            return [$field->key => self::mean($weights), Record::beside($field->key) => count($weights) > self::MOST_WEIGHTS ? null : ($weights === [] ? self::NOTHING : $weights)];
        }

        return [$field->key => self::measured($measure, $values), Record::beside($field->key) => count($weights) > self::MOST_WEIGHTS ? null : ($weights === [] ? self::NOTHING : $weights)];
    }

    /** @param  array<array-key, mixed>  $weights */
    private static function mean(array $weights): mixed
    {
        [$sum, $count] = [0, 0];
        foreach ($weights as $entry => $times) {
            if (str_starts_with((string) $entry, 'n') && is_int($times)) {
                $sum = Number::add($sum, Number::multiply(Number::of(substr((string) $entry, 1)), $times));
                $count += $times;
            }
        }

        return $count === 0 ? null : Number::divide($sum, $count);
    }

    /** @return array<string, mixed> stored values of a record that nothing refers to yet */
    public static function begun(Field $field): array
    {
        return $field->tally === null ? [] : [$field->key => self::ofNothing($field->tally), ...($field->tally->measure->isRunning() ? [] : [Record::beside($field->key) => self::NOTHING])];
    }

    private static function ofNothing(Tally $tally): ?int
    {
        return in_array($tally->measure, [Measure::Count, Measure::Sum, Measure::Distinct], true) ? 0 : null;
    }

    /** What a record puts into a tally, wherever that stands: 1 for a count, else the field's value; null when it does not count. */
    private function contribution(Tally $tally, Record $record, RecordStore $store): mixed
    {
        $type = $this->rulebook->types[$record->type];
        $counts = $tally->where === null ? null : ($this->frames[$type->key] ??= CompiledRules::frame($this->rulebook, $type))->counts[$tally->where->source] ?? null;
        if ($counts !== null) {
            if (! $counts($record)) {
                return null;
            }
        } elseif ($tally->where !== null) {
            $scope = new EventScope(Event::changed($record->type, $record->id, [], null, '1970-01-01T00:00:00'), $type, $record, $record, new Viewer($this->rulebook, $store));
            if ($tally->where->value($scope, new Warnings) !== true) {
                return null;
            }
        }

        return $tally->field === null ? 1 : $record->value($tally->field);
    }

    /** @return list<string> the records that a record counts for: those that it refers to, and with a tree those above */
    private function holders(Tally $tally, Record $record, RecordStore $store): array
    {
        $ids = self::ids((array) $record->value($tally->via));

        return $tally->tree === null ? array_values(array_unique($ids)) : $this->above($tally->tree, $ids, $store);
    }

    /**
     * @param  array<mixed>  $values
     * @return list<string>
     */
    private static function ids(array $values): array
    {
        return array_values(array_filter($values, is_string(...)));
    }

    /**
     * @param  list<string>  $ids
     * @return list<string> these, and all above them in the tree
     */
    private function above(string $tree, array $ids, RecordStore $store): array
    {
        for ($at = $ids; $at !== [] && count($ids) < self::MOST_ABOVE;) {
            $above = [];
            foreach ($store->findMany($at) as $holder) {
                array_push($above, ...self::ids((array) $holder->value($tree)));
            }
            // a tree that goes round counts each record once
            $at = array_values(array_diff($above, $ids));
            array_push($ids, ...$at);
        }

        return array_values(array_unique($ids));
    }

    /** @param  list<array{int, mixed}>  $moves  sign and value */
    private static function run(mixed $now, array $moves): int|BigDecimal
    {
        $total = is_int($now) || $now instanceof BigDecimal ? $now : 0;
        foreach ($moves as [$sign, $value]) {
            if (is_int($value) || $value instanceof BigDecimal) {
                $total = $sign > 0 ? Number::add($total, $value) : Number::subtract($total, $value);
            }
        }

        return $total;
    }

    /** @param  list<mixed>  $values */
    public static function measured(Measure $measure, array $values): mixed
    {
        $numbers = array_values(array_filter($values, fn (mixed $v): bool => is_int($v) || $v instanceof BigDecimal));
        $sum = array_reduce($numbers, fn (int|BigDecimal $sum, int|BigDecimal $n): int|BigDecimal => Number::add($sum, $n), 0);
        usort($numbers, Number::compare(...));
        $texts = array_values(array_filter($values, is_string(...)));
        sort($texts);

        return match ($measure) {
            Measure::Count => count($values),
            Measure::Sum => $sum,
            Measure::Average => $numbers === [] ? null : Number::divide($sum, count($numbers)),
            // dates and moments are stored so that texts sort as they do
            Measure::Min => $numbers[0] ?? $texts[0] ?? null,
            Measure::Max => $numbers === [] ? ($texts === [] ? null : $texts[count($texts) - 1]) : $numbers[count($numbers) - 1],
            Measure::Distinct => count(array_unique(array_map(fn (mixed $v): string => (string) json_encode(Record::plain($v)), array_merge(...array_map(fn (mixed $v): array => is_array($v) ? $v : [$v], $values))))),
        };
    }
}
