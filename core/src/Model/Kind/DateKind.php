<?php

declare(strict_types=1);

namespace Sorvel\Core\Model\Kind;

use Sorvel\Core\Feel\Temporal\Date;
use Sorvel\Core\Feel\Temporal\DateTime;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Viewer;

/** A date, stored as ISO 8601: 2027-03-04. */
final class DateKind implements FieldKind
{
    public function fit(mixed $value, Field $field, Viewer $viewer, bool $byRule): string
    {
        $date = match (true) {
            $value instanceof Date => $value,
            $value instanceof DateTime && $byRule => $value->date,
            is_string($value) => Date::parse($value),
            default => null,
        };

        return $date !== null ? (string) $date : throw new Misfit('it must be a date; an example is 2027-03-04.');
    }

    public function seen(mixed $stored, Field $field, Viewer $viewer, string $path): mixed
    {
        return is_string($stored) ? Date::parse($stored) : null;
    }

    public function words(mixed $stored, Field $field, Viewer $viewer): string
    {
        return is_string($stored) ? $stored : '';
    }

    public function read(string $words, Field $field, Viewer $viewer): string
    {
        return (string) preg_replace('~^(\d{4}-\d{2}-\d{2})[T ]00:00(:00)?$~', '$1', $words);
    }
}
