<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel\Temporal;

/** 10.3.2.3.5 */
final class Date implements Temporal
{
    private function __construct(public readonly int $year, public readonly int $month, public readonly int $day)
    {
    }

    public static function of(int $year, int $month, int $day): ?self
    {
        return Calendar::exists($year, $month, $day) ? new self($year, $month, $day) : null;
    }

    public static function parse(string $text): ?self
    {
        if (preg_match('~^(-?(?:[1-9]\d{4,8}|\d{4}))-(\d{2})-(\d{2})$~D', $text, $m) !== 1 || $m[1] === '-0000') {
            return null;
        }

        return self::of((int) $m[1], (int) $m[2], (int) $m[3]);
    }

    public static function fromDays(int $days): ?self
    {
        return abs($days) > 366 * Calendar::MAX_YEAR ? null : self::of(...Calendar::fromDays($days));
    }

    public function days(): int
    {
        return Calendar::toDays($this->year, $this->month, $this->day);
    }

    public function plusDays(int $days): ?self
    {
        $day = $this->day + $days;

        return $day >= 1 && $day <= 28 ? new self($this->year, $this->month, $day) : self::fromDays($this->days() + $days);
    }

    /** A day that the month does not have becomes its last. */
    public function plusMonths(int $months): ?self
    {
        $count = $this->year * 12 + $this->month - 1 + $months;
        $year = Calendar::floorDiv($count, 12);
        $month = $count - $year * 12 + 1;

        return self::of($year, $month, min($this->day, Calendar::daysInMonth($year, $month)));
    }

    /** 1 is Monday, 7 is Sunday. */
    public function weekday(): int
    {
        return (($this->days() + 3) % 7 + 7) % 7 + 1;
    }

    public function dayOfYear(): int
    {
        return $this->days() - Calendar::toDays($this->year, 1, 1) + 1;
    }

    /** ISO 8601 week. */
    public function weekOfYear(): int
    {
        $thursday = $this->days() - $this->weekday() + 4;
        [$year] = Calendar::fromDays($thursday);

        return intdiv($thursday - Calendar::toDays($year, 1, 1), 7) + 1;
    }

    public function midnight(): DateTime
    {
        return new DateTime($this, new Time(0, 0, null));
    }

    public function equals(Temporal $other): ?bool
    {
        return $other instanceof self ? $this->days() === $other->days() : null;
    }

    public function compare(Temporal $other): ?int
    {
        return $other instanceof self ? $this->days() <=> $other->days() : null;
    }

    public function property(string $name): mixed
    {
        return match ($name) {
            'year' => $this->year, 'month' => $this->month, 'day' => $this->day, 'weekday' => $this->weekday(), default => null
        };
    }

    public function properties(): array
    {
        return ['year', 'month', 'day', 'weekday'];
    }

    public function type(): string
    {
        return 'date';
    }

    public function __toString(): string
    {
        return sprintf('%s%04d-%02d-%02d', $this->year < 0 ? '-' : '', abs($this->year), $this->month, $this->day);
    }
}
