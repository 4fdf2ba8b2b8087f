<?php

declare(strict_types=1);

namespace Sorvel\App\Desk;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\FieldType;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Rulebook;

/**
 * Which records a list shows, in order. Where a filter leaves few, those are fetched and sorted; else the index of the
 * sorted field is walked in its order until the page is full. Either way only narrow index entries are read.
 */
final class RecordList
{
    private const FEW = 2500;

    /** A filter that leaves up to so many is gone through to see whether the others leave few of them */
    private const SOME = 12_000;

    private const LAST = 'last';

    /** @var list<int> of the types that are listed */
    private readonly array $kinds;

    /** @var array<string, RecordType> */
    private readonly array $types;

    /** @var list<array{string, list<mixed>}> conditions on N, the record's number */
    private readonly array $conditions;

    private readonly ?Field $sorted;

    public function __construct(private readonly Connection $database, private readonly RecordIndex $index, private readonly RecordQuery $query, private readonly Rulebook $rulebook)
    {
        // each entry is asked for by its record's number as the list is walked; gathering all of them first is what costs
        $database->executeStatement("SET SESSION optimizer_switch = 'exists_to_in=off', group_concat_max_len = 1000000");
        $this->types = array_filter($rulebook->types, fn (RecordType $t): bool => $query->type === null ? $t->isTicket === $query->tickets : $t->key === $query->type);
        $this->kinds = array_values(array_map(fn (RecordType $t): int => $index->word($t->key), $this->types));
        $conditions = array_map($this->holds(...), $query->lines);
        if ($query->words !== '') {
            $conditions[] = ['EXISTS (SELECT 1 FROM record w WHERE w.n = N AND (w.folded LIKE ? OR w.id IN (?, ?)))', $this->named()];
        }
        $this->conditions = $conditions;
        $sorted = null;
        foreach ($this->types as $type) {
            $sorted ??= $type->fields[$query->sort === 'name' && ! $query->tickets ? $type->nameField ?? 'name' : $query->sort] ?? null;
        }
        $this->sorted = $sorted;
    }

    /** @return array{list<int>, string|null} numbers of the page's records in order, and where the next page begins */
    public function page(): array
    {
        $few = $this->few();
        $found = $few === null ? $this->walk() : $this->sort($few);
        $more = count($found) > $this->query->limit;
        $found = array_slice($found, 0, $this->query->limit);
        $last = end($found);

        return [array_column($found, 1), $more && $last !== false ? RecordQuery::cursor($last[0] === null ? self::LAST : (string) $last[0], (string) $last[1]) : null];
    }

    /** How many there are, up to a bound. */
    public function count(int $most): int
    {
        $few = $this->few();
        if ($few !== null) {
            return count($few);
        }
        // along one of the lines where there is one that names values; the others are asked of each
        $along = ['SELECT r.n FROM record r WHERE r.type IN (?)', [array_keys($this->types)], [ArrayParameterType::STRING], 'r.n', null];
        foreach ($this->drivers() as $driver) {
            $along = $driver;
            break;
        }
        [$sql, $parameters, $types, $n, $but] = $along;
        [$where, $more] = $this->where($n, $but);
        $count = $this->database->fetchOne(sprintf('SELECT COUNT(*) FROM (%s%s LIMIT %d) t', $sql, $where, $most), [...$parameters, ...$more], $types);

        return is_numeric($count) ? (int) $count : 0;
    }

    /** @var list<int>|false|null */
    private array|false|null $few = null;

    /** @return list<int>|null every record that fits, when one of the filters leaves few; null when they leave many */
    private function few(): ?array
    {
        if ($this->few === null) {
            $this->few = $this->fewByFilter() ?? false;
        }

        return $this->few === false ? null : $this->few;
    }

    /** @return list<int>|null */
    private function fewByFilter(): ?array
    {
        $larger = [];
        foreach ($this->drivers() as $driver) {
            [$sql, $parameters, $types, , $but] = $driver;
            $ids = $this->numbers($sql.' LIMIT '.(self::FEW + 1), $parameters, $types);
            if (count($ids) > self::FEW) {
                $larger[] = $driver;

                continue;
            }
            $ids = array_values(array_unique($ids));
            if ($ids === [] || count($this->conditions) < 2) {
                return $ids;
            }
            [$where, $parameters] = $this->where('r.n', $but);

            return $this->numbers('SELECT r.n FROM record r WHERE r.n IN ('.implode(',', $ids).')'.$where, $parameters);
        }
        $met = count($larger) < 2 ? null : $this->common($larger);
        if ($met !== null) {
            [$ids, $places] = $met;
            [$where, $parameters] = $this->where('r.n', ...$places);

            return $where === '' || $ids === [] ? $ids : $this->numbers('SELECT r.n FROM record r WHERE r.n IN ('.implode(',', $ids).')'.$where, $parameters);
        }
        if ($this->query->lines === [] && $this->query->words === '' && ! $this->query->tickets) {
            $ids = $this->numbers('SELECT n FROM record WHERE type IN (?) LIMIT '.(self::FEW + 1), [array_keys($this->types)], [ArrayParameterType::STRING]);

            return count($ids) > self::FEW && $this->sorted !== null ? null : $ids;
        }

        return null;
    }

    /**
     * What filters that leave some thousands each have in common, when that is few.
     *
     * @param  list<array{string, list<mixed>, list<ArrayParameterType>, string, int|null}>  $drivers
     * @return array{list<int>, list<int|null>}|null the records, and the places of the lines that they meet
     */
    private function common(array $drivers): ?array
    {
        [$common, $places] = [null, []];
        foreach ($drivers as [$sql, $parameters, $types, , $place]) {
            $size = $this->database->fetchOne('SELECT COUNT(*) FROM ('.$sql.' LIMIT '.(self::SOME + 1).') t', $parameters, $types);
            if (! is_numeric($size) || (int) $size > self::SOME) {
                continue;
            }
            // one text of all numbers comes faster than a row for each
            $numbers = array_flip(explode(',', self::text($this->database->fetchOne('SELECT GROUP_CONCAT(n) FROM ('.$sql.') t', $parameters, $types))));
            $common = $common === null ? $numbers : array_intersect_key($common, $numbers);
            $places[] = $place;
        }

        return $common === null || count($places) < 2 || count($common) > self::FEW ? null : [array_map(intval(...), array_keys($common)), $places];
    }

    /** @return iterable<array{string, list<mixed>, list<ArrayParameterType>, string, int|null}> queries for the records that one line leaves, likely short ones first, with their column of the record's number and the place of the line */
    private function drivers(): iterable
    {
        $kinds = implode(',', $this->kinds === [] ? [0] : $this->kinds);
        foreach ([Test::Any, Test::Least, Test::Most, Test::Within, Test::Words] as $test) {
            foreach ($this->query->lines as $place => $line) {
                if ($line->test !== $test || ($line->field === 'state' && array_intersect($line->of, ['open', 'closed']) !== [])) {
                    continue;
                }
                if ($line->field === FilterLine::WATCHED) {
                    yield ['SELECT r.n FROM watcher w JOIN record r ON r.id = w.record WHERE w.person IN (?)', [$line->of], [ArrayParameterType::STRING], 'r.n', $place];

                    continue;
                }
                if ($this->isName($line)) {
                    yield ['SELECT r.n FROM record r FORCE INDEX (record_by_name) WHERE r.type IN (?) AND r.folded LIKE ?', [array_keys($this->types), self::within($line->of[0])], [ArrayParameterType::STRING], 'r.n', $place];

                    continue;
                }
                [$test1, $parameters] = self::test($line, 'x');
                yield [sprintf('SELECT x.n FROM %s x FORCE INDEX (%s) WHERE x.slot = %d AND x.kind IN (%s) AND %s', $line->isNumber ? 'record_number' : 'record_text', $line->isNumber ? 'record_number_value' : 'record_text_value', $this->index->word($line->field), $kinds, $test1), $parameters, [], 'x.n', $place];
            }
        }
        if ($this->query->words !== '') {
            yield ['SELECT r.n FROM record r WHERE r.type IN (?) AND (r.folded LIKE ? OR r.id IN (?, ?))', [array_keys($this->types), ...$this->named()], [ArrayParameterType::STRING], 'r.n', count($this->query->lines)];
        }
    }

    /**
     * Few records in order, those after the cursor, one more than the page holds.
     *
     * @param  list<int>  $ids
     * @return list<array{float|string|null, int}> what they are sorted by, and their numbers
     */
    private function sort(array $ids): array
    {
        $keys = $this->keys($ids);
        $order = array_map(fn (int $n): array => [$keys[$n] ?? null, $n], $ids);
        usort($order, $this->compare(...));
        if ($this->query->after !== null) {
            $after = $this->after();
            $order = array_values(array_filter($order, fn (array $one): bool => $this->compare($one, $after) > 0));
        }

        return array_slice($order, 0, $this->query->limit + 1);
    }

    /**
     * @param  array{float|string|null, int}  $a
     * @param  array{float|string|null, int}  $b
     */
    private function compare(array $a, array $b): int
    {
        if (($a[0] === null) !== ($b[0] === null)) {
            // what has no value stands last, whichever way
            return $a[0] === null ? 1 : -1;
        }
        $order = is_string($a[0]) && is_string($b[0]) ? strcmp($a[0], $b[0]) : $a[0] <=> $b[0];

        return ($order === 0 ? $a[1] <=> $b[1] : $order) * ($this->query->descending ? -1 : 1);
    }

    /** @return array{float|string|null, int} */
    private function after(): array
    {
        [$value, $n] = $this->query->after ?? ['', '0'];

        return [$value === self::LAST ? null : ($this->isByNumber() || $this->options() !== [] ? (float) $value : $value), (int) $n];
    }

    /**
     * @param  list<int>  $ids
     * @return array<int, float|string> by number
     */
    private function keys(array $ids): array
    {
        $keys = [];
        if ($this->sorted === null) {
            $column = $this->query->sort === 'created_at' ? 'created_at' : 'changed_at';
            foreach (array_chunk($ids, 2000) as $chunk) {
                foreach ($this->database->fetchAllKeyValue('SELECT n, '.$column.' FROM record WHERE n IN ('.implode(',', $chunk).')') as $n => $value) {
                    $keys[(int) $n] = is_string($value) ? $value : '';
                }
            }

            return $keys;
        }
        $options = array_flip($this->options());
        foreach (array_chunk($ids, 2000) as $chunk) {
            $sql = sprintf('SELECT n, value FROM %s WHERE slot = %d AND n IN (%s)%s', $this->isByNumber() ? 'record_number' : 'record_text', $this->index->word($this->sorted->key), implode(',', $chunk), $this->isByNumber() ? '' : ' AND i = 0');
            foreach ($this->database->fetchAllKeyValue($sql) as $n => $value) {
                $value = is_scalar($value) ? (string) $value : '';
                $keys[(int) $n] = match (true) {
                    $this->isByNumber() => (float) $value, $options !== [] => (float) ($options[$value] ?? count($options)), default => $value
                };
            }
        }

        return $keys;
    }

    /** @return list<array{float|string|null, int}> along the index, until the page is full */
    private function walk(): array
    {
        $found = [];
        $after = $this->query->after === null ? null : $this->after();
        $way = $this->query->descending ? '<' : '>';
        foreach ($this->segments() as [$key, $sql, $parameters]) {
            if ($after !== null && $key !== null && ($after[0] === null || ($key !== true && $this->comesBefore($key, $after[0])))) {
                continue;
            }
            if ($after !== null && $key === true) {
                $sql .= sprintf(' AND x.value %s= ? AND (x.value %s ? OR x.n %s ?)', $way, $way, $way);
                array_push($parameters, $after[0], $after[0], $after[1]);
            } elseif ($after !== null && $key === $after[0]) {
                $sql .= sprintf(' AND x.n %s ?', $way);
                $parameters[] = $after[1];
            }
            $direction = $this->query->descending ? 'DESC' : 'ASC';
            $sql .= sprintf(' ORDER BY %sx.n %s LIMIT %d', $key === true ? 'x.value '.$direction.', ' : '', $direction, $this->query->limit + 1 - count($found));
            foreach ($this->database->fetchAllNumeric($sql, $parameters) as [$n, $value]) {
                $found[] = [$key === true ? ($this->isByNumber() ? (float) self::text($value) : self::text($value)) : $key, (int) self::text($n)];
            }
            if (count($found) > $this->query->limit) {
                break;
            }
        }

        return $found;
    }

    private function comesBefore(float $key, float|string $other): bool
    {
        return $this->query->descending ? $key > (float) $other : $key < (float) $other;
    }

    /**
     * Stretches of the index one after the other: of each option in its order, or of all values at once, then what has none.
     *
     * @return iterable<array{float|true|null, string, list<mixed>}> the key that all of it have, true when they differ, null for none; the query
     */
    private function segments(): iterable
    {
        [$where, $more] = $this->where('x.n');
        $kinds = implode(',', $this->kinds === [] ? [0] : $this->kinds);
        $slot = $this->sorted === null ? 0 : $this->index->word($this->sorted->key);
        $table = $this->isByNumber() ? 'record_number' : 'record_text';
        $from = sprintf('SELECT x.n, x.value FROM %s x FORCE INDEX (%s_value) WHERE x.slot = %d AND x.kind IN (%s)%s%s', $table, $table, $slot, $kinds, $this->isByNumber() ? '' : ' AND x.i = 0', $where);
        $options = $this->options();
        foreach ($this->query->descending ? array_reverse($options, true) : $options as $place => $option) {
            yield [(float) $place, $from.' AND x.value = ?', [...$more, $option]];
        }
        if ($options === []) {
            yield [true, $from, $more];
        }
        $without = sprintf(' AND NOT EXISTS (SELECT 1 FROM %s s WHERE s.n = x.n AND s.slot = %d%s)', $table, $slot, $options === [] ? '' : ' AND s.value IN ('.implode(', ', array_fill(0, count($options), '?')).')');
        yield [null, sprintf('SELECT x.n, NULL FROM record x WHERE x.type IN (%s)%s%s', implode(', ', array_fill(0, max(1, count($this->types)), '?')), $where, $without), [...($this->types === [] ? [''] : array_map(strval(...), array_keys($this->types))), ...$more, ...$options]];
    }

    /** @return list<string> of the sorted field, lowest first; empty when it has none */
    private function options(): array
    {
        return $this->sorted === null || $this->sorted->options === [] ? [] : array_map(strval(...), array_keys($this->sorted->options));
    }

    private function isByNumber(): bool
    {
        return $this->sorted !== null && (in_array($this->sorted->behavesAs(), [FieldType::Number, FieldType::Percent], true) || ($this->sorted->key === 'number' && $this->sorted->builtIn));
    }

    /** @return array{string, list<mixed>} every condition but some, each with AND before it */
    private function where(string $n, ?int ...$but): array
    {
        $conditions = array_filter($this->conditions, fn (int $place): bool => ! in_array($place, $but, true), ARRAY_FILTER_USE_KEY);
        $sql = implode('', array_map(fn (array $c): string => ' AND '.str_replace(' = N', ' = '.$n, $c[0]), $conditions));

        return [$sql, array_merge(...array_values(array_map(fn (array $c): array => $c[1], $conditions)), ...[[]])];
    }

    /** @return array{string, list<mixed>} */
    private function holds(FilterLine $line): array
    {
        if ($line->field === FilterLine::WATCHED) {
            return [sprintf('%sEXISTS (SELECT 1 FROM watcher w JOIN record v ON v.id = w.record WHERE v.n = N AND w.person IN (%s))', $line->test === Test::None ? 'NOT ' : '', self::marks($line->of)), $line->of];
        }
        if ($this->isName($line)) {
            return ['EXISTS (SELECT 1 FROM record w WHERE w.n = N AND w.folded LIKE ?)', [self::within($line->of[0])]];
        }
        $from = sprintf('EXISTS (SELECT 1 FROM %s t WHERE t.n = N AND t.slot = %d', $line->isNumber ? 'record_number' : 'record_text', $this->index->word($line->field));
        if ($line->field === 'state' && array_intersect($line->of, ['open', 'closed']) !== []) {
            $plain = $this->plainStates($line->of);
            if ($plain !== null) {
                return [($line->test === Test::None ? 'NOT ' : '').$from.' AND t.value IN ('.self::marks($plain).'))', $plain];
            }
            $pairs = $this->states($line->of);

            return [($line->test === Test::None ? 'NOT ' : '').$from.' AND (t.kind, t.value) IN ('.implode(', ', array_fill(0, intdiv(count($pairs), 2), '(?, ?)')).'))', $pairs];
        }
        if ($line->test === Test::Empty || $line->test === Test::Filled) {
            return [($line->test === Test::Empty ? 'NOT ' : '').$from.')', []];
        }
        [$test, $parameters] = self::test($line, 't');

        return [($line->test === Test::None ? 'NOT ' : '').$from.' AND '.$test.')', $parameters];
    }

    /**
     * @param  list<string>  $of  states, "open" or "closed"
     * @return list<string>|null states by key alone; null when a key is wanted of one type and not of another
     */
    private function plainStates(array $of): ?array
    {
        [$in, $out] = [[], []];
        foreach ($this->types as $type) {
            foreach ($type->states as $state) {
                if (in_array($state->open ? 'open' : 'closed', $of, true) || in_array($state->key, $of, true)) {
                    $in[$state->key] = true;
                } else {
                    $out[$state->key] = true;
                }
            }
        }

        return array_intersect_key($in, $out) !== [] || $in === [] ? null : array_map(strval(...), array_keys($in));
    }

    /**
     * @param  list<string>  $of  states, "open" or "closed"
     * @return list<int|string> kind and state, in turn
     */
    private function states(array $of): array
    {
        $pairs = [];
        foreach ($this->types as $type) {
            foreach ($type->states as $state) {
                if (in_array($state->open ? 'open' : 'closed', $of, true) || in_array($state->key, array_diff($of, ['open', 'closed']), true)) {
                    array_push($pairs, $this->index->word($type->key), $state->key);
                }
            }
        }

        return $pairs === [] ? [0, ''] : $pairs;
    }

    /** @return array{string, list<mixed>} what a line asks of an index entry */
    private static function test(FilterLine $line, string $x): array
    {
        return match ($line->test) {
            Test::Words => ["LOWER($x.value) LIKE ?", [self::within($line->of[0])]],
            Test::Least, Test::Within => ["$x.value >= ?", [$line->of[0]]],
            Test::Most => ["$x.value <= ?", [$line->of[0]]],
            default => [sprintf('%s.value IN (%s)', $x, self::marks($line->of)), $line->of],
        };
    }

    /** @return list<string> what words mean in a name or an id */
    private function named(): array
    {
        $words = $this->query->words;

        return [self::within($words), $words, mb_strtoupper($words)];
    }

    private static function within(string $words): string
    {
        return '%'.addcslashes(mb_strtolower($words), '\\%_').'%';
    }

    /** Whether words are looked for in what records are called, which is indexed in small letters. */
    private function isName(FilterLine $line): bool
    {
        foreach ($this->types as $type) {
            if ($line->test !== Test::Words || $line->field !== ($type->nameField ?? 'title')) {
                return false;
            }
        }

        return $this->types !== [];
    }

    /** @param  list<string>  $values */
    private static function marks(array $values): string
    {
        return implode(', ', array_fill(0, max(1, count($values)), '?'));
    }

    /**
     * @param  list<mixed>  $parameters
     * @param  list<ArrayParameterType>  $types
     * @return list<int>
     */
    private function numbers(string $sql, array $parameters, array $types = []): array
    {
        return array_map(fn (mixed $n): int => (int) self::text($n), $this->database->fetchFirstColumn($sql, $parameters, $types));
    }

    private static function text(mixed $value): string
    {
        return is_scalar($value) ? (string) $value : '';
    }
}
