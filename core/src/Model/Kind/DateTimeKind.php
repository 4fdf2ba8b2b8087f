<?php

declare(strict_types=1);

namespace Sorvel\Core\Model\Kind;

use Sorvel\Core\Feel\Temporal\Date;
use Sorvel\Core\Feel\Temporal\DateTime;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Viewer;

/**
 * A moment, to the second. Written with an offset or a zone, or without one as on a clock of the desk; stored in UTC
 * (2027-03-04T09:00:00Z), so that stored texts sort as moments do; a formula sees it in the desk's zone.
 */
final class DateTimeKind implements FieldKind
{
    /** @var array{string, string, string} text, zone and what it came to, the last time: many records of one moment are common */
    private static array $last = ['', '', ''];

    public function fit(mixed $value, Field $field, Viewer $viewer, bool $byRule): string
    {
        if ($value === self::$last[0] && $viewer->rulebook->timezone === self::$last[1]) {
            return self::$last[2];
        }
        $moment = match (true) {
            $value instanceof DateTime => $value,
            $value instanceof Date && $byRule => $value->midnight(),
            // seconds may be left out, as people and browsers do
            is_string($value) => DateTime::parse((string) preg_replace('~^(\d{4}-\d{2}-\d{2})[T ](\d{2}:\d{2})(?=$|Z|[+-]|@)~', '$1T$2:00', $value)),
            default => null,
        };
        if ($moment === null) {
            throw new Misfit('it must be a date and a time; an example is 2027-03-04T09:00:00.');
        }
        $zone = $moment->time->zone === null ? '@'.$viewer->rulebook->timezone : '';
        $instant = DateTime::parse($moment.$zone)?->instant() ?? throw new Misfit('there is no such moment.');

        $stored = gmdate('Y-m-d\TH:i:s\Z', $instant);
        if (is_string($value)) {
            self::$last = [$value, $viewer->rulebook->timezone, $stored];
        }

        return $stored;
    }

    public function seen(mixed $stored, Field $field, Viewer $viewer, string $path): mixed
    {
        return is_string($stored) ? self::on($stored, $viewer->rulebook->timezone) : null;
    }

    /** A stored moment on the clocks of a zone. */
    public static function on(string $stored, string $timezone): ?DateTime
    {
        try {
            $at = (new \DateTimeImmutable($stored))->setTimezone(new \DateTimeZone($timezone));
        } catch (\Exception) {
            return null;
        }

        return DateTime::parse($at->format('Y-m-d\TH:i:s').'@'.$timezone);
    }

    /** On the clocks of the desk. */
    public function words(mixed $stored, Field $field, Viewer $viewer): string
    {
        $at = is_string($stored) ? self::on($stored, $viewer->rulebook->timezone) : null;

        return $at === null ? '' : str_replace('T', ' ', (string) preg_replace('~(:00)?@.*$~', '', (string) $at));
    }

    public function read(string $words, Field $field, Viewer $viewer): string
    {
        return (string) preg_replace('~^(\d{4}-\d{2}-\d{2})$~', '$1T00:00', str_replace(' ', 'T', $words));
    }
}
