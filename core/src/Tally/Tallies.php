<?php

declare(strict_types=1);

namespace Sorvel\Core\Tally;

use Brick\Math\BigDecimal;
use Sorvel\Core\Engine\Event;
use Sorvel\Core\Engine\EventScope;
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

    /** @var array<string, list<Field>> tally fields by the type that they count */
    private array $byType = [];

    public function __construct(private readonly Rulebook $rulebook)
    {
        foreach ($rulebook->types as $type) {
            foreach ($type->fields as $field) {
                if ($field->tally !== null) {
                    $this->byType[$field->tally->of][] = $field;
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
                $before = $outcome->before === null ? null : $this->contribution($tally, $outcome->before, $store);
                $after = $this->contribution($tally, $outcome->record, $store);
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
        $store->hold(array_map(strval(...), array_keys($deltas)));
        $values = [];
        foreach ($deltas as $id => $fields) {
            $record = $store->find((string) $id);
            if ($record === null) {
                continue;
            }
            foreach ($fields as $key => $moves) {
                $field = $this->rulebook->types[$record->type]->fields[$key];
                $values[(string) $id][$key] = $field->tally?->measure->isRunning() === true ? self::run($record->value($key), $moves) : $this->recount($field, $record, $store);
            }
        }

        return $values;
    }

    /** A tally from nothing. */
    public function recount(Field $field, Record $holder, RecordStore $store): mixed
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
        foreach (array_chunk($store->referring($tally->of, $tally->via, $holders), 500) as $ids) {
            foreach ($store->findMany($ids) as $record) {
                $value = $this->contribution($tally, $record, $store);
                if ($value !== null) {
                    $values[] = $value;
                }
            }
        }

        return self::measured($tally->measure, $values);
    }

    /** What a tally of nothing is. */
    public static function ofNothing(Tally $tally): ?int
    {
        return in_array($tally->measure, [Measure::Count, Measure::Sum, Measure::Distinct], true) ? 0 : null;
    }

    /** What a record puts into a tally, wherever that stands: 1 for a count, else the field's value; null when it does not count. */
    private function contribution(Tally $tally, Record $record, RecordStore $store): mixed
    {
        if ($tally->where !== null) {
            $type = $this->rulebook->types[$record->type];
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
        $ids = array_values(array_filter((array) $record->value($tally->via), is_string(...)));
        for ($at = $ids; $tally->tree !== null && $at !== [] && count($ids) < self::MOST_ABOVE;) {
            $above = [];
            foreach ($store->findMany($at) as $holder) {
                array_push($above, ...array_filter((array) $holder->value($tally->tree), is_string(...)));
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
    private static function measured(Measure $measure, array $values): mixed
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
