<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

use Sorvel\Core\Rule\Rule;

/** The way that a look of a compiled rule takes through its rows, as one number. */
final class Ways
{
    /** @var \WeakMap<Rule, array<int, array{list<int>, array<int, array<int, int>>}>>|null ways that have been told before */
    private static ?\WeakMap $known = null;

    /**
     * How many ways a row can end: it was not come to (0); one of its n checks fails (1 to n); it fits (n + 1); every check
     * holds, and it is not hit all the same, since a look-up that it needs ends the rule or it held before the event
     * (n + 2); a look-up ends it at a check (n + 3 and on). The ways of all rows are the digits of one number, the first
     * row's the last of them.
     */
    public static function base(Rule $rule): int
    {
        return 2 * count($rule->checks) + 3;
    }

    /** Whether a row fitted, on the way that a look took. */
    public static function fits(Rule $rule, int $path): bool
    {
        [$base, $fits] = [self::base($rule), count($rule->checks) + 1];
        for (; $path > 0; $path = intdiv($path, $base)) {
            if ($path % $base === $fits) {
                return true;
            }
        }

        return false;
    }

    /**
     * The way that a look took, from the number that it gave.
     *
     * @return array{list<int>, array<int, array<int, int>>} the rows that fitted; and by row and column, 1 where a cell held, 2 where it failed
     */
    public static function path(Rule $rule, int $path): array
    {
        self::$known ??= new \WeakMap;
        self::$known[$rule] ??= [];

        return self::$known[$rule][$path] ??= self::ends($rule, $path);
    }

    /**
     * Rows and cells, with those of ways.
     *
     * @param  array<string, array<int, int>>  $counts  by rule, way to how often it was taken
     * @param  array<string, Rule>  $rules
     * @param  array<string, array<int, int>>  $rows  by rule, row to how often it was hit
     * @param  array<string, array<int, array<int, int>>>  $cells  by rule, row and column: 1 seen holding, 2 seen failing, 3 both
     * @return array{array<string, array<int, int>>, array<string, array<int, array<int, int>>>}
     */
    public static function told(array $counts, array $rules, array $rows, array $cells): array
    {
        foreach ($counts as $key => $ways) {
            foreach ($ways as $way => $count) {
                [$hit, $seen] = self::path($rules[$key], $way);
                foreach ($hit as $row) {
                    $rows[$key][$row] = ($rows[$key][$row] ?? 0) + $count;
                }
                foreach ($seen as $row => $columns) {
                    foreach ($columns as $column => $bits) {
                        $cells[$key][$row][$column] = ($cells[$key][$row][$column] ?? 0) | $bits;
                    }
                }
            }
        }

        return [$rows, $cells];
    }

    /** @return array{list<int>, array<int, array<int, int>>} */
    private static function ends(Rule $rule, int $path): array
    {
        [$base, $checks] = [self::base($rule), count($rule->checks)];
        [$rows, $cells] = [[], []];
        for ($row = 0; $path > 0; $path = intdiv($path, $base), $row++) {
            $end = $path % $base;
            foreach ($rule->rows[$row]->if as $column => $tests) {
                if ($end === $column + 1) {
                    $cells[$row][$column] = 2;
                    break;
                }
                if ($end === $checks + 3 + $column) {
                    break;
                }
                $tests->alwaysHolds() || $cells[$row][$column] = 1;
            }
            if ($end === $checks + 1) {
                $rows[] = $row;
            }
        }

        return [$rows, $cells];
    }
}
