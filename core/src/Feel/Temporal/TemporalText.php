<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel\Temporal;

/** The text of an `@"…"` literal (10.3.2.2, rule 62). */
final class TemporalText
{
    public static function parse(string $text): ?Temporal
    {
        return Date::parse($text) ?? DateTime::parse($text) ?? Time::parse($text) ?? DaysDuration::parse($text) ?? MonthsDuration::parse($text);
    }
}
