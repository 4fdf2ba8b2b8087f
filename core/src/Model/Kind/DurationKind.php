<?php

declare(strict_types=1);

namespace Sorvel\Core\Model\Kind;

use Sorvel\Core\Feel\Temporal\DaysDuration;
use Sorvel\Core\Feel\Temporal\MonthsDuration;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Viewer;

/** A duration in days and smaller, or in years and months; stored as ISO 8601: P1DT2H, P6M. */
final class DurationKind implements FieldKind
{
    public function fit(mixed $value, Field $field, Viewer $viewer, bool $byRule): string
    {
        $duration = is_string($value) ? self::parsed($value) : $value;

        return $duration instanceof DaysDuration || $duration instanceof MonthsDuration
            ? (string) $duration
            : throw new Misfit('it must be a duration; examples are PT90M, P3D and P6M.');
    }

    public function seen(mixed $stored, Field $field, Viewer $viewer, string $path): mixed
    {
        return is_string($stored) ? self::parsed($stored) : null;
    }

    private static function parsed(string $text): DaysDuration|MonthsDuration|null
    {
        return DaysDuration::parse($text) ?? MonthsDuration::parse($text);
    }

    public function words(mixed $stored, Field $field, Viewer $viewer): string
    {
        return is_string($stored) ? $stored : '';
    }

    public function read(string $words, Field $field, Viewer $viewer): string
    {
        return $words;
    }
}
