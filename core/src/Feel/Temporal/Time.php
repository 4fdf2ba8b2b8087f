<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel\Temporal;

use Brick\Math\BigDecimal;
use Sorvel\Core\Feel\Number;

/** 10.3.2.3.4: a time of day, with or without a zone. */
final class Time implements Temporal
{
    public const DAY = 86400;

    /**
     * @param  int  $seconds  of the day, 0 to 86399
     * @param  int  $nanos  0 to 999999999
     */
    public function __construct(public readonly int $seconds, public readonly int $nanos, public readonly ?Zone $zone)
    {
    }

    public static function of(int $hour, int $minute, int|BigDecimal $second, ?Zone $zone): ?self
    {
        if ($hour < 0 || $hour > 23 || $minute < 0 || $minute > 59 || Number::sign($second) < 0 || Number::compare($second, 60) >= 0) {
            return null;
        }
        $whole = (int) (string) Number::decimal($second)->toScale(0, \Brick\Math\RoundingMode::Floor);
        $nanos = Number::subtract($second, $whole);

        return new self($hour * 3600 + $minute * 60 + $whole, (int) (string) Number::decimal($nanos)->multipliedBy(1_000_000_000)->toScale(0, \Brick\Math\RoundingMode::Down), $zone);
    }

    public static function parse(string $text): ?self
    {
        if (preg_match('~^(\d{2}):(\d{2}):(\d{2})(?:\.(\d{1,18}))?(.*)$~Ds', $text, $m) !== 1) {
            return null;
        }
        $zone = $m[5] === '' ? null : Zone::parse($m[5]);
        if ($m[5] !== '' && $zone === null) {
            return null;
        }
        // the end of the day is the start of the next; as a time of day the same as 00:00:00
        if ($m[1] === '24' && $m[2].$m[3] === '0000' && (int) $m[4] === 0) {
            return new self(0, 0, $zone);
        }
        if ((int) $m[1] > 23 || (int) $m[2] > 59 || (int) $m[3] > 59) {
            return null;
        }

        return new self((int) $m[1] * 3600 + (int) $m[2] * 60 + (int) $m[3], (int) str_pad(substr($m[4], 0, 9), 9, '0'), $zone);
    }

    /** Wraps round midnight. */
    public function plus(DaysDuration $duration): self
    {
        $nanos = $this->nanos + $duration->nanos;
        $seconds = $this->seconds + $duration->seconds % self::DAY + Calendar::floorDiv($nanos, 1_000_000_000);

        return new self(($seconds % self::DAY + self::DAY) % self::DAY, ($nanos % 1_000_000_000 + 1_000_000_000) % 1_000_000_000, $this->zone);
    }

    /** Null when only one of the two has a zone. */
    public function minus(self $other): ?DaysDuration
    {
        if (($this->zone === null) !== ($other->zone === null)) {
            return null;
        }

        return DaysDuration::of($this->utc() - $other->utc(), $this->nanos - $other->nanos);
    }

    private function utc(): int
    {
        return $this->seconds - ($this->zone?->at($this->seconds) ?? 0);
    }

    public function equals(Temporal $other): ?bool
    {
        $order = $this->compare($other);

        return $order === null ? ($other instanceof self ? false : null) : $order === 0;
    }

    public function compare(Temporal $other): ?int
    {
        if (! $other instanceof self || ($this->zone === null) !== ($other->zone === null)) {
            return null;
        }

        return [$this->utc(), $this->nanos] <=> [$other->utc(), $other->nanos];
    }

    public function second(): int|BigDecimal
    {
        return $this->nanos === 0 ? $this->seconds % 60 : Number::add($this->seconds % 60, Number::of(BigDecimal::ofUnscaledValue($this->nanos, 9)));
    }

    public function property(string $name): mixed
    {
        return match ($name) {
            'hour' => intdiv($this->seconds, 3600),
            'minute' => intdiv($this->seconds, 60) % 60,
            'second' => $this->second(),
            'time offset' => $this->zone === null ? null : DaysDuration::of($this->zone->at($this->seconds), 0),
            'timezone' => $this->zone?->name,
            default => null,
        };
    }

    public function properties(): array
    {
        return ['hour', 'minute', 'second', 'time offset', 'timezone'];
    }

    public function type(): string
    {
        return 'time';
    }

    public function __toString(): string
    {
        $fraction = $this->nanos === 0 ? '' : '.'.rtrim(sprintf('%09d', $this->nanos), '0');

        return sprintf('%02d:%02d:%02d', intdiv($this->seconds, 3600), intdiv($this->seconds, 60) % 60, $this->seconds % 60).$fraction.$this->zone;
    }
}
