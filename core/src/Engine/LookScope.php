<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

use Sorvel\Core\Feel\EvaluationStopped;
use Sorvel\Core\Feel\Scope;
use Sorvel\Core\Feel\Values;
use Sorvel\Core\Feel\Warnings;
use Sorvel\Core\Guard\Candidate;
use Sorvel\Core\Model\Condition;
use Sorvel\Core\Model\Reads;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordView;
use Sorvel\Core\Model\Viewer;
use Sorvel\Core\Rule\LookUp;
use Sorvel\Core\Rule\Rule;
use Sorvel\Core\Tally\Measure;
use Sorvel\Core\Tally\Tallies;

/** The event's names, and before them a rule's look-ups, each found when first read. */
final class LookScope implements Scope
{
    /** @var array<string, mixed> */
    private array $found = [];

    /** @var list<array<string, mixed>> for the trace, in the order found */
    private array $trace = [];

    /** @var array<string, mixed> what was found, as plain data */
    private array $plain = [];

    /** @var list<array{table: string, inputs: list<mixed>, rows: list<int>, value: mixed}> calls of tables */
    private array $tables = [];

    /** @var array<string, true> being found right now */
    private array $open = [];

    /** @param  array<string, array{\Closure|null, \Closure|null, \Closure|null, \Closure|null}>  $finds  of a compiled rule: by look-up, what it asks, {@see LookUpCompiler::finds} */
    public function __construct(private readonly Rule $rule, private readonly EventScope $event, private readonly Viewer $viewer, private readonly bool $full = true, private array $finds = [])
    {
    }

    public function has(string $name): bool
    {
        return isset($this->rule->lookUps[$name]) || $this->event->has($name);
    }

    public function get(string $name): mixed
    {
        if (isset($this->found[$name]) && ! $this->full) {
            return $this->found[$name];
        }
        $lookUp = $this->rule->lookUps[$name] ?? null;
        if ($lookUp === null) {
            return $this->event->get($name);
        }
        if (! array_key_exists($name, $this->found)) {
            if (isset($this->open[$name])) {
                return null;
            }
            $this->open[$name] = true;
            try {
                $this->found[$name] = $this->find($lookUp);
            } catch (EvaluationStopped $stopped) {
                if (! isset($this->finds[$name])) {
                    throw $stopped;
                }
                // what is compiled does not know this case
                unset($this->finds[$name]);
                $this->found[$name] = $this->find($lookUp);
            } finally {
                unset($this->open[$name]);
            }
        }
        if ($this->full) {
            $this->viewer->reads->values[$name] = $this->plain[$name];
        }

        return $this->found[$name];
    }

    public static function foundNothing(string $lookUp): string
    {
        return sprintf('The look-up "%s" found nothing.', $lookUp);
    }

    /** @return list<array<string, mixed>> */
    public function trace(): array
    {
        return $this->trace;
    }

    /** @return list<array{table: string, inputs: list<mixed>, rows: list<int>, value: mixed}> the calls of tables that finding took */
    public function tables(): array
    {
        return $this->tables;
    }

    private function find(LookUp $lookUp): mixed
    {
        if (! $this->full && $lookUp->type !== null) {
            return $this->came($lookUp, $this->candidates($lookUp, new Warnings));
        }
        $outer = $this->full ? $this->viewer->reads->take() : ['reads' => [], 'tables' => []];
        $warnings = new Warnings;
        $candidates = null;
        if ($lookUp->type === null) {
            $value = $lookUp->value?->value($this, $warnings);
            $none = Record::isEmpty($value);
            $count = $none ? 0 : (is_array($value) ? count($value) : 1);
        } else {
            try {
                $candidates = $this->candidates($lookUp, $warnings);
            } catch (EvaluationStopped $stopped) {
                [$this->viewer->reads->values, $this->viewer->reads->tables] = [$outer['reads'], $outer['tables']];
                throw $stopped;
            }
            $count = count($candidates);
            $value = $this->measured($lookUp, $candidates);
            $none = $value === null || $value === [];
        }
        $isUsed = $none && $lookUp->none === 'use';
        if ($isUsed) {
            $value = $lookUp->use?->value($this, $warnings);
        }
        $ends = match (true) {
            $none && in_array($lookUp->none, ['skip_rule', 'problem'], true) => [$lookUp->none, self::foundNothing($lookUp->name)],
            ! $none && $lookUp->kind === 'first' && $count > 1 && $lookUp->several !== 'first' => [$lookUp->several, self::foundSeveral($lookUp, $candidates ?? [])],
            default => null,
        };
        if ($ends !== null && ! $this->full) {
            throw new SkipRule($ends[0] === 'problem', $ends[1]);
        }
        if (! $this->full) {
            return $value;
        }
        $seen = $this->viewer->reads->take();
        array_push($this->tables, ...$seen['tables']);
        $this->plain[$lookUp->name] = self::brief($value);
        $this->trace[] = [
            'name' => $lookUp->name, 'kind' => $lookUp->kind, 'formula' => $lookUp->formula(), 'value' => $this->plain[$lookUp->name], 'found' => $count,
            'records' => $candidates === null ? null : array_map(fn (Record $r): string => $r->id, array_slice($candidates, 0, self::NAMED)),
            'none' => $none ? $lookUp->none : null, 'several' => $ends !== null && ! $none ? $lookUp->several : null, ...Reads::plain($seen), 'warnings' => $warnings->all(),
        ];
        foreach ($outer['reads'] as $path => $read) {
            $this->viewer->reads->note($path, $read);
        }
        array_push($this->viewer->reads->tables, ...$outer['tables']);
        if ($ends !== null) {
            throw new SkipRule($ends[0] === 'problem', $ends[1]);
        }

        return $value;
    }

    /**
     * What a look-up of records comes to where nothing is told of it.
     *
     * @param  list<Record>  $candidates
     */
    private function came(LookUp $lookUp, array $candidates): mixed
    {
        $value = $this->measured($lookUp, $candidates);
        if ($value === null || $value === []) {
            return match ($lookUp->none) {
                'use' => $lookUp->use?->value($this, new Warnings),
                'null' => $value,
                default => throw new SkipRule($lookUp->none === 'problem', self::foundNothing($lookUp->name)),
            };
        }
        if ($lookUp->kind === 'first' && $lookUp->several !== 'first' && count($candidates) > 1) {
            throw new SkipRule($lookUp->several === 'problem', self::foundSeveral($lookUp, $candidates));
        }

        return $value;
    }

    /** @param  list<Record>  $candidates */
    private static function foundSeveral(LookUp $lookUp, array $candidates): string
    {
        $count = count($candidates);

        return sprintf('The look-up "%s" found %d, where one is needed: %s.', $lookUp->name, $count, implode(', ', array_slice(array_map(fn (Record $r): string => $r->id, $candidates), 0, 5)).($count > 5 ? ' …' : ''));
    }

    /** How many found records a trace names. */
    private const SHOWN = 20;

    /** So that what a look-up found can be kept with a sample. */
    private const NAMED = 200;

    /** A value for the trace; of many records only the first few. */
    public static function brief(mixed $value): mixed
    {
        return is_array($value) && count($value) > self::SHOWN ? [...array_map(Values::json(...), array_slice($value, 0, self::SHOWN)), '…'] : Values::json($value);
    }

    /**
     * The record itself is looked at as it stands now, not as it is kept.
     *
     * @param  list<string>  $ids
     * @param  list<Condition>  $conditions
     * @return list<string>
     */
    private static function withOwn(array $ids, Record $own, array $conditions): array
    {
        $at = array_search($own->id, $ids, true);
        if ($at !== false) {
            array_splice($ids, $at, 1);
        }
        foreach ($conditions as $condition) {
            if (! $condition->holds($own)) {
                return $ids;
            }
        }
        $ids[] = $own->id;
        count($ids) === 1 || sort($ids, SORT_NATURAL);

        return $ids;
    }

    /** @return list<Record> that meet the criteria, in order */
    private function candidates(LookUp $lookUp, Warnings $warnings): array
    {
        $type = $lookUp->type ?? throw new \LogicException('A look-up of a value has no candidates.');
        [$nodes, $exact, $holds, $noted] = $this->finds[$lookUp->name] ?? [null, null, null, null];
        $conditions = match (true) {
            $this->full => $noted !== null ? $noted($this->event, $this, $warnings, $this->viewer->reads) : $lookUp->criteria->conditions($this, $this->viewer),
            $exact !== null => $exact($this->event, $this, $warnings),
            default => $lookUp->criteria->conditions($this, $this->viewer, $nodes === null ? null : $nodes($this->event, $this, $warnings)),
        };
        $ids = $conditions === null ? [] : $this->viewer->store->matching($type->key, $conditions);
        $criterion = $this->viewer->reads->values;
        $found = [];
        $keys = [];
        $own = $conditions !== null && $this->event->type->key === $type->key ? $this->event->record() : null;
        if ($own !== null) {
            $ids = self::withOwn($ids, $own, $conditions);
        }
        $others = $own === null ? $ids : array_diff($ids, [$own->id]);
        $records = $others === [] ? [] : $this->viewer->store->findMany(array_values($others));
        foreach ($ids as $id) {
            $record = $id === $own?->id ? $own : $records[$id] ?? null;
            if ($record === null) {
                continue;
            }
            if ($holds !== null && $lookUp->order === null) {
                if ($holds($record, $this->event, $this, $warnings)) {
                    $found[] = $record;
                }

                continue;
            }
            $scope = new Candidate(new RecordView($record, $this->viewer), $this);
            if ($lookUp->where === null || $lookUp->where->value($scope, $warnings) === true) {
                $found[] = $record;
                $keys[] = $lookUp->order?->value($scope, $warnings);
            }
        }
        // what candidates hold is not what the record holds
        $this->viewer->reads->values = $criterion;
        if ($lookUp->order === null) {
            return $found;
        }
        $places = array_keys($found);
        usort($places, function (int $a, int $b) use ($keys, $lookUp): int {
            if (($keys[$a] === null) !== ($keys[$b] === null)) {
                // what has no value stands last, whichever way
                return $keys[$a] === null ? 1 : -1;
            }
            $order = Values::ordered('<', $keys[$a], $keys[$b]) === true ? -1 : (Values::ordered('>', $keys[$a], $keys[$b]) === true ? 1 : 0);

            return $order === 0 ? $a <=> $b : ($lookUp->descending ? -$order : $order);
        });

        return array_map(fn (int $place): Record => $found[$place], $places);
    }

    /** @param  list<Record>  $candidates */
    private function measured(LookUp $lookUp, array $candidates): mixed
    {
        if ($lookUp->kind === 'first') {
            return $candidates === [] ? null : new RecordView($candidates[0], $this->viewer, $lookUp->name.'.');
        }
        if ($lookUp->kind === 'all') {
            return array_map(fn (Record $r): RecordView => new RecordView($r, $this->viewer, $lookUp->name.'.'), $candidates);
        }
        if ($lookUp->kind === 'count') {
            return count($candidates);
        }
        $field = $lookUp->type->fields[(string) $lookUp->field] ?? throw new \LogicException('A measure is of a field.');
        $values = array_values(array_filter(array_map(fn (Record $r): mixed => $r->value($field->key), $candidates), fn (mixed $v): bool => ! Record::isEmpty($v)));
        $measured = Tallies::measured(Measure::from($lookUp->kind), $values);

        // a least or a greatest value is one of the field; the others are numbers
        return in_array($lookUp->kind, ['min', 'max'], true) && $measured !== null ? $field->kind->seen($measured, $field, $this->viewer, $lookUp->name.'.') : $measured;
    }
}
