<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel\Temporal;

/** 10.3.2.3.6: a date with a time of day, with or without a zone. */
final class DateTime implements Temporal
{
    public function __construct(public readonly Date $date, public readonly Time $time)
    {
    }

    public static function parse(string $text): ?self
    {
        $parts = explode('T', $text, 2);
        if (count($parts) < 2) {
            return null;
        }
        $date = Date::parse($parts[0]);
        $time = Time::parse($parts[1]);
        if ($date === null || $time === null) {
            return null;
        }
        if (str_starts_with($parts[1], '24:')) {
            $date = Date::fromDays($date->days() + 1);
        }

        return $date === null ? null : new self($date, $time);
    }

    /** Seconds from 1970-01-01T00:00:00 in its own zone. */
    private function local(): int
    {
        return $this->date->days() * Time::DAY + $this->time->seconds;
    }

    /** Seconds from 1970-01-01T00:00:00Z; a local one as if it stood in UTC. */
    public function instant(): int
    {
        $local = $this->local();

        return $local - ($this->time->zone?->at($local) ?? 0);
    }

    public function plus(DaysDuration $duration): ?self
    {
        $nanos = $this->time->nanos + $duration->nanos;
        $zone = $this->time->zone;
        $carry = Calendar::floorDiv($nanos, 1_000_000_000);
        $seconds = $this->instant() + $duration->seconds + $carry;
        if ($zone !== null) {
            $seconds += $zone->atInstant($seconds);
        }
        $days = Calendar::floorDiv($seconds, Time::DAY);
        $date = Date::fromDays($days);

        return $date === null ? null : new self($date, new Time($seconds - $days * Time::DAY, $nanos - $carry * 1_000_000_000, $zone));
    }

    public function plusMonths(int $months): ?self
    {
        $date = $this->date->plusMonths($months);

        return $date === null ? null : new self($date, $this->time);
    }

    /** Null when only one of the two has a zone. */
    public function minus(self $other): ?DaysDuration
    {
        if (($this->time->zone === null) !== ($other->time->zone === null)) {
            return null;
        }

        return DaysDuration::of($this->instant() - $other->instant(), $this->time->nanos - $other->time->nanos);
    }

    public function in(?Zone $zone): self
    {
        return new self($this->date, new Time($this->time->seconds, $this->time->nanos, $zone));
    }

    public function equals(Temporal $other): ?bool
    {
        $order = $this->compare($other);

        return $order === null ? ($other instanceof self ? false : null) : $order === 0;
    }

    public function compare(Temporal $other): ?int
    {
        if (! $other instanceof self || ($this->time->zone === null) !== ($other->time->zone === null)) {
            return null;
        }

        return [$this->instant(), $this->time->nanos] <=> [$other->instant(), $other->time->nanos];
    }

    public function property(string $name): mixed
    {
        if ($name === 'time offset') {
            return $this->time->zone === null ? null : DaysDuration::of($this->time->zone->at($this->local()), 0);
        }

        return $this->date->property($name) ?? $this->time->property($name);
    }

    public function properties(): array
    {
        return [...$this->date->properties(), ...$this->time->properties()];
    }

    public function type(): string
    {
        return 'date and time';
    }

    public function __toString(): string
    {
        return $this->date.'T'.$this->time;
    }
}
