<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel\Temporal;

use Brick\Math\BigDecimal;
use Brick\Math\RoundingMode;
use Sorvel\Core\Feel\Number;

/** 10.3.2.3.7: days and time duration, exact to the nanosecond. */
final class DaysDuration implements Temporal
{
    private const MAX_SECONDS = 99_999_999_999_999_999;

    /** @param  int  $nanos 0 to 999999999, added to the seconds, which may be negative */
    private function __construct(public readonly int $seconds, public readonly int $nanos)
    {
    }

    public static function of(int $seconds, int $nanos): ?self
    {
        $carry = Calendar::floorDiv($nanos, 1_000_000_000);
        if (abs($seconds) > self::MAX_SECONDS) {
            return null;
        }

        return new self($seconds + $carry, $nanos - $carry * 1_000_000_000);
    }

    public static function parse(string $text): ?self
    {
        if (preg_match('~^(-?)P(?:(\d{1,16})D)?(?:T(?=\d)(?:(\d{1,16})H)?(?:(\d{1,16})M)?(?:(\d{1,16})(?:\.(\d{1,18}))?S)?)?$~D', $text, $m, PREG_UNMATCHED_AS_NULL) !== 1) {
            return null;
        }
        if ($m[2] === null && $m[3] === null && $m[4] === null && $m[5] === null) {
            return null;
        }
        $seconds = (float) ($m[2] ?? 0) * 86400 + (float) ($m[3] ?? 0) * 3600 + (float) ($m[4] ?? 0) * 60 + (float) ($m[5] ?? 0);
        if ($seconds > self::MAX_SECONDS) {
            return null;
        }
        $duration = self::of((int) ($m[2] ?? 0) * 86400 + (int) ($m[3] ?? 0) * 3600 + (int) ($m[4] ?? 0) * 60 + (int) ($m[5] ?? 0), (int) str_pad(substr($m[6] ?? '', 0, 9), 9, '0'));

        return $m[1] === '-' ? $duration?->negated() : $duration;
    }

    public static function ofTotal(BigDecimal $seconds): ?self
    {
        if ($seconds->abs()->isGreaterThan(self::MAX_SECONDS)) {
            return null;
        }
        $whole = $seconds->toScale(0, RoundingMode::Floor);

        return self::of((int) (string) $whole, (int) (string) $seconds->minus($whole)->multipliedBy(1_000_000_000)->toScale(0, RoundingMode::Down));
    }

    public function total(): int|BigDecimal
    {
        return $this->nanos === 0 ? $this->seconds : Number::of(BigDecimal::of($this->seconds)->plus(BigDecimal::ofUnscaledValue($this->nanos, 9)));
    }

    public function plus(self $other): ?self
    {
        return self::of($this->seconds + $other->seconds, $this->nanos + $other->nanos);
    }

    public function negated(): ?self
    {
        return self::of(-$this->seconds, -$this->nanos);
    }

    public function times(int|BigDecimal $factor): ?self
    {
        return self::ofTotal(Number::decimal($this->total())->multipliedBy(Number::decimal($factor)));
    }

    public function dividedBy(int|BigDecimal $divisor): ?self
    {
        return Number::sign($divisor) === 0 ? null : self::ofTotal(Number::decimal($this->total())->dividedBy(Number::decimal($divisor), 12, RoundingMode::Down));
    }

    public function isNegative(): bool
    {
        return $this->seconds < 0;
    }

    public function equals(Temporal $other): ?bool
    {
        return $other instanceof self ? $this->compare($other) === 0 : null;
    }

    public function compare(Temporal $other): ?int
    {
        return $other instanceof self ? [$this->seconds, $this->nanos] <=> [$other->seconds, $other->nanos] : null;
    }

    public function property(string $name): mixed
    {
        $size = $this->isNegative() ? $this->negated() : $this;
        if ($size === null) {
            return null;
        }
        $sign = $this->isNegative() ? -1 : 1;
        $seconds = $size->nanos === 0 ? $size->seconds % 60 : Number::add($size->seconds % 60, Number::of(BigDecimal::ofUnscaledValue($size->nanos, 9)));

        return match ($name) {
            'days' => $sign * intdiv($size->seconds, 86400),
            'hours' => $sign * (intdiv($size->seconds, 3600) % 24),
            'minutes' => $sign * (intdiv($size->seconds, 60) % 60),
            'seconds' => Number::multiply($sign, $seconds),
            default => null,
        };
    }

    public function properties(): array
    {
        return ['days', 'hours', 'minutes', 'seconds'];
    }

    public function type(): string
    {
        return 'days and time duration';
    }

    public function __toString(): string
    {
        $size = $this->isNegative() ? $this->negated() ?? $this : $this;
        $days = intdiv($size->seconds, 86400);
        $hours = intdiv($size->seconds, 3600) % 24;
        $minutes = intdiv($size->seconds, 60) % 60;
        $seconds = $size->seconds % 60;
        $fraction = $size->nanos === 0 ? '' : '.'.rtrim(sprintf('%09d', $size->nanos), '0');
        $time = ($hours > 0 ? $hours.'H' : '').($minutes > 0 ? $minutes.'M' : '').($seconds > 0 || $fraction !== '' ? $seconds.$fraction.'S' : '');

        return ($this->isNegative() ? '-' : '').'P'.($days > 0 ? $days.'D' : '').($time !== '' ? 'T'.$time : ($days > 0 ? '' : 'T0S'));
    }
}
