<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel\Temporal;

use Brick\Math\BigDecimal;
use Brick\Math\RoundingMode;
use Sorvel\Core\Feel\Number;

/** 10.3.2.3.8: years and months duration. */
final class MonthsDuration implements Temporal
{
    private const MAX = 12 * 9_999_999_999;

    private function __construct(public readonly int $months)
    {
    }

    public static function of(int $months): ?self
    {
        return abs($months) <= self::MAX ? new self($months) : null;
    }

    public static function parse(string $text): ?self
    {
        if (preg_match('~^(-?)P(?=\d)(?:(\d{1,10})Y)?(?:(\d{1,11})M)?$~D', $text, $m) !== 1) {
            return null;
        }

        return self::of(($m[1] === '-' ? -1 : 1) * ((int) ($m[2] ?? 0) * 12 + (int) ($m[3] ?? 0)));
    }

    /** Whole months from one date to another, towards zero (10.3.4.1). */
    public static function between(Date $from, Date $to): ?self
    {
        $months = ($to->year - $from->year) * 12 + $to->month - $from->month;
        if ($months > 0 && $to->day < $from->day) {
            $months--;
        } elseif ($months < 0 && $to->day > $from->day) {
            $months++;
        }

        return self::of($months);
    }

    public function times(int|BigDecimal $factor): ?self
    {
        return self::truncated(Number::decimal($this->months)->multipliedBy(Number::decimal($factor)));
    }

    public function dividedBy(int|BigDecimal $divisor): ?self
    {
        return Number::sign($divisor) === 0 ? null : self::truncated(Number::decimal($this->months)->dividedBy(Number::decimal($divisor), 12, RoundingMode::Down));
    }

    private static function truncated(BigDecimal $months): ?self
    {
        return $months->abs()->isGreaterThan(self::MAX) ? null : self::of((int) (string) $months->toScale(0, RoundingMode::Down));
    }

    public function equals(Temporal $other): ?bool
    {
        return $other instanceof self ? $this->months === $other->months : null;
    }

    public function compare(Temporal $other): ?int
    {
        return $other instanceof self ? $this->months <=> $other->months : null;
    }

    public function property(string $name): mixed
    {
        return match ($name) {
            'years' => intdiv($this->months, 12), 'months' => $this->months % 12, default => null
        };
    }

    public function properties(): array
    {
        return ['years', 'months'];
    }

    public function type(): string
    {
        return 'years and months duration';
    }

    public function __toString(): string
    {
        $size = abs($this->months);
        $years = intdiv($size, 12);

        return ($this->months < 0 ? '-' : '').'P'.($years > 0 ? $years.'Y' : '').($size % 12 > 0 || $years === 0 ? ($size % 12).'M' : '');
    }
}
