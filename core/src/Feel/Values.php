<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel;

use Brick\Math\BigDecimal;
use Sorvel\Core\Feel\Temporal\Temporal;

/**
 * Equality, order and JSON of values. A value is null, bool, int, BigDecimal, string, list, Context, Range or
 * FunctionValue.
 */
final class Values
{
    /** 10.3.2.13, table 42; null when the two cannot be compared. */
    public static function equal(mixed $a, mixed $b): ?bool
    {
        if ($a === null || $b === null) {
            return $a === $b;
        }
        if (Number::is($a) && Number::is($b)) {
            return Number::compare($a, $b) === 0;
        }
        if ($a instanceof Context || $b instanceof Context) {
            return self::equalContexts($a, $b);
        }
        if (is_array($a) && is_array($b)) {
            if (count($a) !== count($b)) {
                return false;
            }
            foreach ($a as $i => $item) {
                if (self::equal($item, $b[$i]) !== true) {
                    return false;
                }
            }

            return true;
        }
        if (is_array($a) && count($a) === 1) {
            return self::equal($a[0], $b);
        }
        if (is_array($b) && count($b) === 1) {
            return self::equal($a, $b[0]);
        }
        if ($a instanceof Temporal && $b instanceof Temporal) {
            return $a->equals($b);
        }
        if ((is_string($a) && is_string($b)) || (is_bool($a) && is_bool($b))) {
            return $a === $b;
        }
        if ($a instanceof Range && $b instanceof Range) {
            return $a->startIncluded === $b->startIncluded && $a->endIncluded === $b->endIncluded
                && self::equal($a->start, $b->start) === true && self::equal($a->end, $b->end) === true;
        }

        return null;
    }

    private static function equalContexts(mixed $a, mixed $b): ?bool
    {
        $left = $a instanceof Context ? $a->identity() : null;
        $right = $b instanceof Context ? $b->identity() : null;
        if ($left !== null && is_string($b)) {
            return $left === $b;
        }
        if ($right !== null && is_string($a)) {
            return $right === $a;
        }
        if (! $a instanceof Context || ! $b instanceof Context) {
            return null;
        }
        if ($left !== null || $right !== null) {
            return $left === $right;
        }
        if (array_diff($a->names(), $b->names()) !== [] || array_diff($b->names(), $a->names()) !== []) {
            return false;
        }
        foreach ($a->names() as $name) {
            if (self::equal($a->get($name), $b->get($name)) !== true) {
                return false;
            }
        }

        return true;
    }

    /** `<`, `<=`, `>`, `>=`; null when the two have no order. */
    public static function ordered(string $operator, mixed $a, mixed $b): ?bool
    {
        if (Number::is($a) && Number::is($b)) {
            $order = Number::compare($a, $b);
        } elseif (is_string($a) && is_string($b)) {
            $order = strcmp($a, $b);
        } elseif ($a instanceof Temporal && $b instanceof Temporal) {
            $order = $a->compare($b);
            if ($order === null) {
                return null;
            }
        } else {
            return null;
        }

        return match ($operator) {
            '<' => $order < 0,
            '<=' => $order <= 0,
            '>' => $order > 0,
            default => $order >= 0,
        };
    }

    public static function kind(mixed $value): string
    {
        return match (true) {
            $value === null => 'nothing',
            is_bool($value) => 'a yes/no',
            Number::is($value) => 'a number',
            is_string($value) => 'a text',
            is_array($value) => 'a list',
            $value instanceof Temporal => 'a '.$value->type(),
            $value instanceof Context => $value->identity() === null ? 'a context' : 'a record',
            $value instanceof Range => 'a range',
            default => 'a function',
        };
    }

    /** Plain data for traces and files; records and people become their ids. */
    public static function json(mixed $value): mixed
    {
        return match (true) {
            $value instanceof BigDecimal => Number::json($value),
            $value instanceof Temporal => (string) $value,
            is_array($value) => array_map(self::json(...), $value),
            $value instanceof Context => $value->identity() ?? (object) array_combine($value->names(), array_map(fn (string $n): mixed => self::json($value->get($n)), $value->names())),
            $value instanceof Range => ['start' => self::json($value->start), 'end' => self::json($value->end), 'start_included' => $value->startIncluded, 'end_included' => $value->endIncluded],
            $value instanceof FunctionValue => 'function',
            default => $value,
        };
    }

    /** JSON data to values; floats become exact decimals. */
    public static function fromJson(mixed $value): mixed
    {
        if (is_float($value)) {
            return Number::fromFloat($value);
        }
        if ($value instanceof \stdClass) {
            $value = (array) $value;
            if ($value === []) {
                return new PlainContext([]);
            }
        }
        if (! is_array($value)) {
            return $value;
        }

        return array_is_list($value) ? array_map(self::fromJson(...), $value) : new PlainContext(array_map(self::fromJson(...), $value));
    }
}
