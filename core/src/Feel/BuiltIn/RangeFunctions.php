<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel\BuiltIn;

use Sorvel\Core\Feel\FeelError;
use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Feel\FunctionValue;
use Sorvel\Core\Feel\MapScope;
use Sorvel\Core\Feel\Node\RangeOf;
use Sorvel\Core\Feel\Number;
use Sorvel\Core\Feel\Range;
use Sorvel\Core\Feel\Temporal\Temporal;
use Sorvel\Core\Feel\Values;
use Sorvel\Core\Feel\Warnings;

/** How points and ranges lie to each other (10.3.4.11, table 78). An open end lies beyond everything. */
final class RangeFunctions implements FunctionSet
{
    public static function functions(): array
    {
        return [
            self::relation('before', self::before(...)),
            self::relation('after', fn (mixed $a, mixed $b): bool => self::before($b, $a)),
            self::relation('meets', self::onRanges(self::meets(...))),
            self::relation('met by', self::onRanges(fn (Range $a, Range $b): bool => self::meets($b, $a))),
            self::relation('overlaps', self::onRanges(fn (Range $a, Range $b): bool => self::startsBeforeEnd($a, $b) && self::startsBeforeEnd($b, $a))),
            self::relation('overlaps before', self::onRanges(self::overlapsBefore(...))),
            self::relation('overlaps after', self::onRanges(fn (Range $a, Range $b): bool => self::overlapsBefore($b, $a))),
            self::relation('finishes', self::finishes(...)),
            self::relation('finished by', fn (mixed $a, mixed $b): ?bool => self::finishes($b, $a)),
            self::relation('includes', self::includes(...)),
            self::relation('during', fn (mixed $a, mixed $b): ?bool => self::includes($b, $a)),
            self::relation('starts', self::starts(...)),
            self::relation('started by', fn (mixed $a, mixed $b): ?bool => self::starts($b, $a)),
            self::relation('coincides', self::coincides(...)),
            new FunctionValue('range', ['from'], self::range(...), 1),
        ];
    }

    private static function relation(string $name, \Closure $body): FunctionValue
    {
        return new FunctionValue($name, ['value1', 'value2'], static function (array $a, Warnings $warnings) use ($body, $name): ?bool {
            [$one, $two] = $a;
            if ($one === null || $two === null || ! self::comparable($one, $two)) {
                return $one === null || $two === null ? null : $warnings->add(sprintf('%s() needs points and ranges of one type.', $name));
            }

            return $body($one, $two);
        }, 2, others: in_array($name, ['includes', 'finished by', 'started by'], true) ? [['range', 'point'], ['range1', 'range2']] : [['point1', 'point2'], ['point', 'range'], ['range', 'point'], ['range1', 'range2']]);
    }

    private static function comparable(mixed $a, mixed $b): bool
    {
        $points = [...self::points($a), ...self::points($b)];
        foreach ($points as $point) {
            if ((! is_string($point) && ! Number::is($point) && ! $point instanceof Temporal) || Values::ordered('<', $points[0], $point) === null) {
                return false;
            }
        }

        return true;
    }

    /** @return list<mixed> */
    private static function points(mixed $value): array
    {
        return $value instanceof Range ? array_values(array_filter([$value->start, $value->end], fn (mixed $p): bool => $p !== null)) : [$value];
    }

    private static function onRanges(\Closure $body): \Closure
    {
        return static fn (mixed $a, mixed $b): ?bool => $a instanceof Range && $b instanceof Range ? $body($a, $b) : null;
    }

    private static function less(mixed $a, mixed $b): bool
    {
        return Values::ordered('<', $a, $b) === true;
    }

    private static function equal(mixed $a, mixed $b): bool
    {
        return $a !== null && $b !== null && Values::equal($a, $b) === true;
    }

    private static function before(mixed $a, mixed $b): bool
    {
        $end = $a instanceof Range ? $a->end : $a;
        $start = $b instanceof Range ? $b->start : $b;
        if ($end === null || $start === null) {
            return false;
        }
        $apart = ($a instanceof Range && ! $a->endIncluded) || ($b instanceof Range && ! $b->startIncluded);

        return self::less($end, $start) || ($apart && self::equal($end, $start));
    }

    private static function meets(Range $a, Range $b): bool
    {
        return $a->endIncluded && $b->startIncluded && self::equal($a->end, $b->start);
    }

    /** Whether $a starts before $b ends, or both include the same point there. */
    private static function startsBeforeEnd(Range $a, Range $b): bool
    {
        return $a->start === null || $b->end === null || self::less($a->start, $b->end) || ($a->startIncluded && $b->endIncluded && self::equal($a->start, $b->end));
    }

    private static function overlapsBefore(Range $a, Range $b): bool
    {
        $startsFirst = ($a->start === null && $b->start !== null) || ($a->start !== null && $b->start !== null && (self::less($a->start, $b->start) || (self::equal($a->start, $b->start) && $a->startIncluded && ! $b->startIncluded)));
        $endsFirst = ($b->end === null && $a->end !== null) || ($a->end !== null && $b->end !== null && (self::less($a->end, $b->end) || (self::equal($a->end, $b->end) && (! $a->endIncluded || $b->endIncluded))));

        return $startsFirst && $endsFirst && self::startsBeforeEnd($b, $a);
    }

    private static function finishes(mixed $a, mixed $b): ?bool
    {
        if (! $b instanceof Range) {
            return null;
        }
        if (! $a instanceof Range) {
            return $b->endIncluded && self::equal($b->end, $a);
        }

        return $a->endIncluded === $b->endIncluded && self::equal($a->end, $b->end) && self::startsWithin($a, $b);
    }

    private static function starts(mixed $a, mixed $b): ?bool
    {
        if (! $b instanceof Range) {
            return null;
        }
        if (! $a instanceof Range) {
            return $b->startIncluded && self::equal($b->start, $a);
        }

        return $a->startIncluded === $b->startIncluded && self::equal($a->start, $b->start) && self::endsWithin($a, $b);
    }

    private static function includes(mixed $a, mixed $b): ?bool
    {
        if (! $a instanceof Range) {
            return null;
        }

        return $b instanceof Range ? self::startsWithin($b, $a) && self::endsWithin($b, $a) : $a->holds($b);
    }

    private static function startsWithin(Range $a, Range $b): bool
    {
        return $b->start === null || ($a->start !== null && (self::less($b->start, $a->start) || (self::equal($a->start, $b->start) && ($b->startIncluded || ! $a->startIncluded))));
    }

    private static function endsWithin(Range $a, Range $b): bool
    {
        return $b->end === null || ($a->end !== null && (self::less($a->end, $b->end) || (self::equal($a->end, $b->end) && ($b->endIncluded || ! $a->endIncluded))));
    }

    private static function coincides(mixed $a, mixed $b): ?bool
    {
        if ($a instanceof Range !== $b instanceof Range) {
            return null;
        }

        return Values::equal($a, $b);
    }

    /** @param  list<mixed>  $a */
    private static function range(array $a): ?Range
    {
        if (! is_string($a[0])) {
            return null;
        }
        try {
            $formula = Formula::parse($a[0]);
        } catch (FeelError) {
            return null;
        }
        if (! $formula->tree instanceof RangeOf) {
            return null;
        }
        $value = $formula->value(new MapScope, new Warnings);

        return $value instanceof Range ? $value : null;
    }
}
