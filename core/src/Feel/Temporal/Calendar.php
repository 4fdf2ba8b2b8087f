<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel\Temporal;

/** The proleptic Gregorian calendar by arithmetic: years of nine digits need no clock of the machine. */
final class Calendar
{
    public const MAX_YEAR = 999_999_999;

    /** Days from 1970-01-01. */
    public static function toDays(int $year, int $month, int $day): int
    {
        $year -= $month <= 2 ? 1 : 0;
        $era = self::floorDiv($year, 400);
        $yearOfEra = $year - $era * 400;
        $dayOfYear = intdiv(153 * ($month + ($month > 2 ? -3 : 9)) + 2, 5) + $day - 1;
        $dayOfEra = $yearOfEra * 365 + intdiv($yearOfEra, 4) - intdiv($yearOfEra, 100) + $dayOfYear;

        return $era * 146097 + $dayOfEra - 719468;
    }

    /** @return array{int, int, int} year, month, day */
    public static function fromDays(int $days): array
    {
        $days += 719468;
        $era = self::floorDiv($days, 146097);
        $dayOfEra = $days - $era * 146097;
        $yearOfEra = intdiv($dayOfEra - intdiv($dayOfEra, 1460) + intdiv($dayOfEra, 36524) - intdiv($dayOfEra, 146096), 365);
        $dayOfYear = $dayOfEra - (365 * $yearOfEra + intdiv($yearOfEra, 4) - intdiv($yearOfEra, 100));
        $shifted = intdiv(5 * $dayOfYear + 2, 153);
        $month = $shifted + ($shifted < 10 ? 3 : -9);

        return [$yearOfEra + $era * 400 + ($month <= 2 ? 1 : 0), $month, $dayOfYear - intdiv(153 * $shifted + 2, 5) + 1];
    }

    public static function daysInMonth(int $year, int $month): int
    {
        return match ($month) {
            2 => $year % 4 === 0 && ($year % 100 !== 0 || $year % 400 === 0) ? 29 : 28,
            4, 6, 9, 11 => 30,
            default => 31,
        };
    }

    public static function exists(int $year, int $month, int $day): bool
    {
        return abs($year) <= self::MAX_YEAR && $month >= 1 && $month <= 12 && $day >= 1 && $day <= self::daysInMonth($year, $month);
    }

    public static function floorDiv(int $a, int $b): int
    {
        $quotient = intdiv($a, $b);

        return $a % $b !== 0 && ($a < 0) !== ($b < 0) ? $quotient - 1 : $quotient;
    }
}
