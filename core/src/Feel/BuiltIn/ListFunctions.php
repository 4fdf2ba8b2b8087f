<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel\BuiltIn;

use Sorvel\Core\Feel\FunctionValue;
use Sorvel\Core\Feel\Number;
use Sorvel\Core\Feel\Values;
use Sorvel\Core\Feel\Warnings;

/** List functions (10.3.4.4). Aggregates take a list or several arguments. */
final class ListFunctions implements FunctionSet
{
    public static function functions(): array
    {
        return [
            self::onList('count', fn (array $l): int => count($l)),
            self::aggregate('min', fn (array $l): mixed => self::extreme(array_values($l), '<')),
            self::aggregate('max', fn (array $l): mixed => self::extreme(array_values($l), '>')),
            self::numbers('sum', fn (array $l): mixed => $l === [] ? null : array_reduce($l, Number::add(...), 0)),
            self::numbers('product', fn (array $l): mixed => $l === [] ? null : array_reduce($l, Number::multiply(...), 1)),
            self::numbers('mean', fn (array $l): mixed => $l === [] ? null : Number::divide(array_reduce($l, Number::add(...), 0), count($l))),
            self::numbers('median', self::median(...)),
            self::aggregate('all', fn (array $l): ?bool => self::quantified(array_values($l), false)),
            self::aggregate('any', fn (array $l): ?bool => self::quantified(array_values($l), true)),
            new FunctionValue('list contains', ['list', 'element'], self::contains(...), 2),
            new FunctionValue('index of', ['list', 'match'], fn (array $a): ?array => $a[0] === null ? null : self::indexOf(self::list($a[0]), $a[1]), 2),
            new FunctionValue('append', ['list', 'item'], fn (array $a): array => [...($a[0] === null ? [] : self::list($a[0])), ...array_slice($a, 1)], 1, true),
            new FunctionValue('concatenate', ['list'], fn (array $a): array => array_merge(...array_map(self::list(...), $a)), 1, true),
            new FunctionValue('union', ['list'], fn (array $a): array => self::distinct(array_merge(...array_map(self::list(...), $a))), 1, true),
            self::onList('distinct values', self::distinct(...)),
            self::onList('reverse', fn (array $l): array => array_reverse($l)),
            self::onList('flatten', self::flatten(...)),
            new FunctionValue('sublist', ['list', 'start position', 'length'], self::sublist(...), 2),
            new FunctionValue('insert before', ['list', 'position', 'newItem'], self::insert(...), 3),
            new FunctionValue('remove', ['list', 'position'], self::remove(...), 2),
            new FunctionValue('list replace', ['list', 'position', 'newItem'], self::replace(...), 3, others: [['list', 'match', 'newItem']]),
            new FunctionValue('sort', ['list', 'precedes'], self::sort(...), 1),
            self::numbers('stddev', self::deviation(...)),
            self::numbers('mode', self::mode(...)),
        ];
    }

    /** @return list<mixed> */
    private static function list(mixed $value): array
    {
        return is_array($value) ? array_values($value) : [$value];
    }

    private static function onList(string $name, \Closure $body): FunctionValue
    {
        return new FunctionValue($name, ['list'], static fn (array $a): mixed => $a[0] === null ? null : $body(self::list($a[0])), 1);
    }

    private static function aggregate(string $name, \Closure $body): FunctionValue
    {
        return new FunctionValue($name, ['list'], static fn (array $a): mixed => count($a) > 1 ? $body($a) : ($a[0] === null ? null : $body(self::list($a[0]))), 1, true);
    }

    private static function numbers(string $name, \Closure $body): FunctionValue
    {
        return self::aggregate($name, static function (array $list) use ($body): mixed {
            foreach ($list as $item) {
                if (! Number::is($item)) {
                    return null;
                }
            }

            return $body($list);
        });
    }

    /** @param  list<mixed>  $list */
    private static function extreme(array $list, string $operator): mixed
    {
        $best = array_shift($list);
        foreach ($list as $item) {
            $better = Values::ordered($operator, $item, $best);
            if ($better === null) {
                return null;
            }
            $best = $better ? $item : $best;
        }

        return $best;
    }

    /** @param  list<int|\Brick\Math\BigDecimal>  $list */
    private static function median(array $list): mixed
    {
        if ($list === []) {
            return null;
        }
        usort($list, Number::compare(...));
        $middle = intdiv(count($list), 2);

        return count($list) % 2 === 1 ? $list[$middle] : Number::divide(Number::add($list[$middle - 1], $list[$middle]), 2);
    }

    /** @param  list<mixed>  $list */
    private static function quantified(array $list, bool $decides): ?bool
    {
        $answer = ! $decides;
        foreach ($list as $item) {
            if ($item === $decides) {
                return $decides;
            }
            $answer = is_bool($item) ? $answer : null;
        }

        return $answer;
    }

    /**
     * @param  list<mixed>  $list
     * @return list<int>
     */
    private static function indexOf(array $list, mixed $match): array
    {
        return array_map(fn (int $i): int => $i + 1, array_keys(array_filter($list, fn (mixed $item): bool => Values::equal($item, $match) === true)));
    }

    /**
     * @param  list<mixed>  $list
     * @return list<mixed>
     */
    private static function distinct(array $list): array
    {
        $distinct = [];
        foreach ($list as $item) {
            if (self::indexOf($distinct, $item) === []) {
                $distinct[] = $item;
            }
        }

        return $distinct;
    }

    /**
     * @param  list<mixed>  $list
     * @return list<mixed>
     */
    private static function flatten(array $list): array
    {
        return array_merge([], ...array_map(fn (mixed $item): array => is_array($item) ? self::flatten(self::list($item)) : [$item], $list));
    }

    /**
     * @param  list<mixed>  $a
     * @return list<mixed>|null
     */
    private static function sublist(array $a): ?array
    {
        [$list, $start, $length] = [...$a, null];
        if ($list === null || ! is_int($start) || $start === 0 || ($length !== null && ! is_int($length))) {
            return null;
        }

        return array_slice(self::list($list), $start > 0 ? $start - 1 : $start, $length);
    }

    /**
     * @param  list<mixed>  $a
     * @return list<mixed>|null
     */
    private static function insert(array $a): ?array
    {
        [$list, $position, $item] = $a;
        if ($list === null || ! is_int($position) || $position === 0) {
            return null;
        }
        $list = self::list($list);
        array_splice($list, $position > 0 ? $position - 1 : $position, 0, [$item]);

        return $list;
    }

    /**
     * @param  list<mixed>  $a
     * @return list<mixed>|null
     */
    private static function remove(array $a): ?array
    {
        [$list, $position] = $a;
        if ($list === null || ! is_int($position) || $position === 0) {
            return null;
        }
        $list = self::list($list);
        array_splice($list, $position > 0 ? $position - 1 : $position, 1);

        return $list;
    }

    /**
     * @param  list<mixed>  $a
     * @return list<mixed>|null
     */
    private static function replace(array $a, Warnings $warnings): ?array
    {
        [$list, $where, $item] = $a;
        if ($list === null) {
            return null;
        }
        $list = self::list($list);
        if ($where instanceof FunctionValue) {
            return array_map(fn (mixed $old): mixed => ($where->body)([$old, $item], $warnings) === true ? $item : $old, $list);
        }
        if (! is_int($where) || $where === 0 || abs($where) > count($list)) {
            return null;
        }
        $list[$where > 0 ? $where - 1 : count($list) + $where] = $item;

        return array_values($list);
    }

    /**
     * A merge sort, so that any answer of the function ends, and equals keep their order.
     *
     * @param  list<mixed>  $a
     * @return list<mixed>|null
     */
    private static function sort(array $a, Warnings $warnings): ?array
    {
        [$list, $precedes] = [...$a, null];
        if ($list === null || ($precedes !== null && ! $precedes instanceof FunctionValue)) {
            return null;
        }
        $before = $precedes === null
            ? fn (mixed $x, mixed $y): bool => Values::ordered('<', $x, $y) === true
            : fn (mixed $x, mixed $y): bool => ($precedes->body)([$x, $y], $warnings) === true;

        return self::merged(self::list($list), $before, $warnings);
    }

    /**
     * @param  list<mixed>  $list
     * @param  \Closure(mixed, mixed): bool  $before
     * @return list<mixed>
     */
    private static function merged(array $list, \Closure $before, Warnings $warnings): array
    {
        if (count($list) < 2) {
            return $list;
        }
        $middle = intdiv(count($list), 2);
        $left = self::merged(array_slice($list, 0, $middle), $before, $warnings);
        $right = self::merged(array_slice($list, $middle), $before, $warnings);
        $merged = [];
        $i = $j = 0;
        while ($i < count($left) && $j < count($right)) {
            $warnings->step();
            $merged[] = $before($right[$j], $left[$i]) ? $right[$j++] : $left[$i++];
        }

        return [...$merged, ...array_slice($left, $i), ...array_slice($right, $j)];
    }

    /** @param  list<int|\Brick\Math\BigDecimal>  $list */
    private static function deviation(array $list): mixed
    {
        if (count($list) < 2) {
            return null;
        }
        $mean = Number::divide(array_reduce($list, Number::add(...), 0), count($list)) ?? 0;
        $squares = 0;
        foreach ($list as $item) {
            $from = Number::subtract($item, $mean);
            $squares = Number::add($squares, Number::multiply($from, $from));
        }
        $variance = Number::divide($squares, count($list) - 1);

        return $variance === null ? null : Number::squareRoot($variance);
    }

    /**
     * @param  list<int|\Brick\Math\BigDecimal>  $list
     * @return list<int|\Brick\Math\BigDecimal>
     */
    private static function mode(array $list): array
    {
        $counts = [];
        $values = [];
        foreach ($list as $item) {
            $key = Number::text($item);
            $counts[$key] = ($counts[$key] ?? 0) + 1;
            $values[$key] = $item;
        }
        $modes = $counts === [] ? [] : array_values(array_intersect_key($values, array_flip(array_map(strval(...), array_keys($counts, max($counts), true)))));
        usort($modes, Number::compare(...));

        return $modes;
    }

    /** @param  list<mixed>  $a */
    private static function contains(array $a): ?bool
    {
        [$list, $element] = $a;
        if ($list === null) {
            return null;
        }
        foreach (is_array($list) ? $list : [$list] as $item) {
            if ($item === $element || Values::equal($item, $element) === true) {
                return true;
            }
        }

        return false;
    }
}
