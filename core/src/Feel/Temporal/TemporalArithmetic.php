<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel\Temporal;

use Brick\Math\BigDecimal;
use Sorvel\Core\Feel\Number;

/** Sums, differences, products and quotients with dates, times and durations (10.3.2.8, tables 50 to 53). */
final class TemporalArithmetic
{
    /** Null when the standard gives none for these two, or the result is out of range. */
    public static function of(string $operator, mixed $left, mixed $right): mixed
    {
        return match ($operator) {
            '+' => self::add($left, $right) ?? self::add($right, $left),
            '-' => self::subtract($left, $right),
            '*' => self::multiply($left, $right) ?? self::multiply($right, $left),
            '/' => self::divide($left, $right),
            default => null,
        };
    }

    public static function negate(Temporal $value): ?Temporal
    {
        return match (true) {
            $value instanceof DaysDuration => $value->negated(),
            $value instanceof MonthsDuration => MonthsDuration::of(-$value->months),
            default => null,
        };
    }

    private static function add(mixed $left, mixed $right): ?Temporal
    {
        if ($right instanceof MonthsDuration) {
            return match (true) {
                $left instanceof Date, $left instanceof DateTime => $left->plusMonths($right->months),
                $left instanceof MonthsDuration => MonthsDuration::of($left->months + $right->months),
                default => null,
            };
        }
        if ($right instanceof DaysDuration) {
            return match (true) {
                $left instanceof Date => $right->nanos === 0 && $right->seconds % 86_400 === 0 ? $left->plusDays(intdiv($right->seconds, 86_400)) : $left->midnight()->plus($right)?->date,
                $left instanceof DateTime => $left->plus($right),
                $left instanceof Time => $left->plus($right),
                $left instanceof DaysDuration => $left->plus($right),
                default => null,
            };
        }

        return null;
    }

    private static function subtract(mixed $left, mixed $right): ?Temporal
    {
        if ($right instanceof DaysDuration || $right instanceof MonthsDuration) {
            $negated = self::negate($right);

            return $negated === null ? null : self::add($left, $negated);
        }
        if ($left instanceof Time && $right instanceof Time) {
            return $left->minus($right);
        }
        if (($left instanceof Date || $left instanceof DateTime) && ($right instanceof Date || $right instanceof DateTime)) {
            return self::moment($left, $right)->minus(self::moment($right, $left));
        }

        return null;
    }

    /** A date beside a date and time is its midnight, in UTC when the other has a zone. */
    private static function moment(Date|DateTime $value, Date|DateTime $beside): DateTime
    {
        return $value instanceof DateTime ? $value : $value->midnight()->in($beside instanceof DateTime && $beside->time->zone !== null ? Zone::offset(0) : null);
    }

    private static function multiply(mixed $left, mixed $right): ?Temporal
    {
        return ($left instanceof DaysDuration || $left instanceof MonthsDuration) && (is_int($right) || $right instanceof BigDecimal) ? $left->times($right) : null;
    }

    private static function divide(mixed $left, mixed $right): mixed
    {
        if (($left instanceof DaysDuration || $left instanceof MonthsDuration) && (is_int($right) || $right instanceof BigDecimal)) {
            return $left->dividedBy($right);
        }
        if ($left instanceof DaysDuration && $right instanceof DaysDuration) {
            return Number::divide($left->total(), $right->total());
        }
        if ($left instanceof MonthsDuration && $right instanceof MonthsDuration) {
            return Number::divide($left->months, $right->months);
        }

        return null;
    }
}
