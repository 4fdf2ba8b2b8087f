<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel\Temporal;

/** An offset from UTC, or an IANA zone, whose offset depends on the day. */
final class Zone
{
    private function __construct(public readonly ?string $name, private readonly int $offset)
    {
    }

    /** @param  int  $seconds east of UTC */
    public static function offset(int $seconds): ?self
    {
        return abs($seconds) <= 18 * 3600 ? new self(null, $seconds) : null;
    }

    public static function named(string $name): ?self
    {
        try {
            return preg_match('~^[A-Za-z]+(?:[/_+-][A-Za-z0-9_+-]+)*$~', $name) === 1 && in_array($name, self::names(), true) ? new self($name, 0) : null;
        } catch (\Exception) {
            return null;
        }
    }

    /** @return list<string> */
    private static function names(): array
    {
        static $names = null;

        return $names ??= \DateTimeZone::listIdentifiers(\DateTimeZone::ALL_WITH_BC);
    }

    /** @param  string  $text Z, +hh:mm, -hh:mm(:ss) or @Area/City */
    public static function parse(string $text): ?self
    {
        if ($text === 'Z' || $text === 'z') {
            return new self(null, 0);
        }
        if (str_starts_with($text, '@')) {
            return self::named(substr($text, 1));
        }
        if (preg_match('~^([+-])(\d{2}):(\d{2})(?::(\d{2}))?$~D', $text, $m) !== 1 || (int) $m[3] > 59 || (int) ($m[4] ?? 0) > 59) {
            return null;
        }

        return self::offset(($m[1] === '-' ? -1 : 1) * ((int) $m[2] * 3600 + (int) $m[3] * 60 + (int) ($m[4] ?? 0)));
    }

    /** Seconds east of UTC at a moment, given as seconds from 1970-01-01T00:00:00Z. */
    public function atInstant(int $instant): int
    {
        if ($this->name === null) {
            return $this->offset;
        }

        // far from our times a zone keeps the rules that it has at the edge
        return (new \DateTimeZone($this->name))->getOffset(new \DateTimeImmutable('@'.max(-62_000_000_000, min(4_000_000_000, $instant))));
    }

    /**
     * Seconds east of UTC, at a local moment given as seconds from 1970-01-01T00:00:00 there. A moment that a change of
     * clocks leaves out counts as if the clocks had not changed yet; one that comes twice is the first.
     */
    public function at(int $local): int
    {
        $before = $this->atInstant($local - 86400);
        $after = $this->atInstant($local + 86400);
        if ($before === $after) {
            return $before;
        }

        return $this->atInstant($local - $before) === $before ? $before : ($this->atInstant($local - $after) === $after ? $after : $before);
    }

    public function __toString(): string
    {
        if ($this->name !== null) {
            return '@'.$this->name;
        }
        if ($this->offset === 0) {
            return 'Z';
        }
        $size = abs($this->offset);

        return sprintf('%s%02d:%02d%s', $this->offset < 0 ? '-' : '+', intdiv($size, 3600), intdiv($size, 60) % 60, $size % 60 === 0 ? '' : sprintf(':%02d', $size % 60));
    }
}
