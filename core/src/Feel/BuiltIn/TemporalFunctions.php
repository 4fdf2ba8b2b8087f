<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel\BuiltIn;

use Brick\Math\BigDecimal;
use Sorvel\Core\Feel\FunctionValue;
use Sorvel\Core\Feel\Temporal\Date;
use Sorvel\Core\Feel\Temporal\DateTime;
use Sorvel\Core\Feel\Temporal\DaysDuration;
use Sorvel\Core\Feel\Temporal\MonthsDuration;
use Sorvel\Core\Feel\Temporal\Time;
use Sorvel\Core\Feel\Temporal\Zone;
use Sorvel\Core\Feel\Warnings;

/** Dates, times and durations made and taken apart (10.3.4.1, 10.3.4.7, 10.3.4.8). */
final class TemporalFunctions implements FunctionSet
{
    public const DAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'];

    private const MONTHS = ['January', 'February', 'March', 'April', 'May', 'June', 'July', 'August', 'September', 'October', 'November', 'December'];

    public static function functions(): array
    {
        return [
            new FunctionValue('date', ['from'], self::date(...), 1, others: [['year', 'month', 'day']]),
            new FunctionValue('time', ['from'], self::time(...), 1, others: [['hour', 'minute', 'second', 'offset']]),
            new FunctionValue('date and time', ['from'], self::dateTime(...), 1, others: [['date', 'time'], ['date', 'timezone'], ['year', 'month', 'day', 'hour', 'minute', 'second', 'offset'], ['year', 'month', 'day', 'hour', 'minute', 'second', 'timezone']]),
            new FunctionValue('duration', ['from'], fn (array $a): DaysDuration|MonthsDuration|null => is_string($a[0]) ? DaysDuration::parse($a[0]) ?? MonthsDuration::parse($a[0]) : null, 1),
            new FunctionValue('years and months duration', ['from', 'to'], fn (array $a): ?MonthsDuration => ($from = self::day($a[0])) !== null && ($to = self::day($a[1])) !== null ? MonthsDuration::between($from, $to) : null, 2),
            self::onDay('day of week', fn (Date $d): string => self::DAYS[$d->weekday() - 1]),
            self::onDay('day of year', fn (Date $d): int => $d->dayOfYear()),
            self::onDay('month of year', fn (Date $d): string => self::MONTHS[$d->month - 1]),
            self::onDay('week of year', fn (Date $d): int => $d->weekOfYear()),
            new FunctionValue('now', [], fn (array $a, Warnings $w): ?DateTime => $w->now ?? $w->add('There is no clock here.'), 0),
            new FunctionValue('today', [], fn (array $a, Warnings $w): ?Date => $w->now->date ?? $w->add('There is no clock here.'), 0),
        ];
    }

    private static function onDay(string $name, \Closure $body): FunctionValue
    {
        return new FunctionValue($name, ['date'], static fn (array $a): mixed => ($day = self::day($a[0])) === null ? null : $body($day), 1);
    }

    private static function day(mixed $value): ?Date
    {
        return $value instanceof Date ? $value : ($value instanceof DateTime ? $value->date : null);
    }

    /** @param  list<mixed>  $a */
    private static function date(array $a): ?Date
    {
        if (count($a) === 1) {
            return is_string($a[0]) ? Date::parse($a[0]) : self::day($a[0]);
        }

        return count($a) === 3 && is_int($a[0]) && is_int($a[1]) && is_int($a[2]) ? Date::of($a[0], $a[1], $a[2]) : null;
    }

    /** @param  list<mixed>  $a */
    private static function time(array $a): ?Time
    {
        if (count($a) === 1) {
            return match (true) {
                is_string($a[0]) => Time::parse($a[0]),
                $a[0] instanceof Time => $a[0],
                $a[0] instanceof DateTime => $a[0]->time,
                $a[0] instanceof Date => new Time(0, 0, Zone::offset(0)),
                default => null,
            };
        }
        [$hour, $minute, $second, $offset] = [...$a, null, null, null, null];
        if (! is_int($hour) || ! is_int($minute) || (! is_int($second) && ! $second instanceof BigDecimal) || ($offset !== null && ! $offset instanceof DaysDuration)) {
            return null;
        }
        $zone = $offset === null ? null : Zone::offset($offset->seconds);

        return $offset !== null && $zone === null ? null : Time::of($hour, $minute, $second, $zone);
    }

    /** @param  list<mixed>  $a */
    private static function dateTime(array $a): ?DateTime
    {
        if (count($a) === 1) {
            return match (true) {
                is_string($a[0]) => DateTime::parse($a[0]) ?? Date::parse($a[0])?->midnight(),
                $a[0] instanceof DateTime => $a[0],
                $a[0] instanceof Date => $a[0]->midnight(),
                default => null,
            };
        }
        if (count($a) === 2) {
            if ($a[1] instanceof Time) {
                $day = self::day($a[0]);

                return $day === null ? null : new DateTime($day, $a[1]);
            }
            $zone = is_string($a[1]) ? Zone::named($a[1]) : null;

            return $zone === null || ! $a[0] instanceof DateTime ? null : self::inZone($a[0], $zone);
        }
        $date = self::date(array_slice($a, 0, 3));
        $time = self::time(array_slice($a, 3, 3));
        if ($date === null || $time === null) {
            return null;
        }
        $zone = match (true) {
            ! isset($a[6]) => null,
            is_string($a[6]) => Zone::named($a[6]),
            $a[6] instanceof DaysDuration => Zone::offset($a[6]->seconds),
            default => null,
        };

        return isset($a[6]) && $zone === null ? null : new DateTime($date, new Time($time->seconds, $time->nanos, $zone));
    }

    /** The same moment as a clock in the zone shows it; a local one is taken to be in that zone. */
    private static function inZone(DateTime $value, Zone $zone): ?DateTime
    {
        if ($value->time->zone === null) {
            return $value->in($zone);
        }
        $zero = DaysDuration::of(0, 0);
        $utc = Date::fromDays(0)?->midnight()->in($zone);
        $since = DaysDuration::of($value->instant() - ($utc?->instant() ?? 0), $value->time->nanos);

        return $zero === null || $since === null ? null : $utc?->plus($since);
    }
}
