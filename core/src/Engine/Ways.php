<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

use Sorvel\Core\Rule\Rule;

/** The way that a look of a compiled rule takes through its rows, as one number. */
final class Ways
{
    /** @var \WeakMap<Rule, array<int, array{list<int>, array<int, array<int, int>>}>>|null ways that have been told before */
    private static ?\WeakMap $told = null;

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
        self::$told ??= new \WeakMap;
        self::$told[$rule] ??= [];

        return self::$told[$rule][$path] ??= self::ends($rule, $path);
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
