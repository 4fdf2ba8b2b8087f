<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

/** Something that happens to one record. */
final class Event
{
    /**
     * @param  string  $id  of the record; for a creation the new one
     * @param  array<string, mixed>  $values  incoming values by field, plain JSON data; null empties a field
     * @param  string|null  $by  the key of the person, null for the desk itself
     * @param  string  $at  ISO 8601
     * @param  array<string, mixed>  $taken  stored values of tallies, which the desk itself sets
     */
    private function __construct(
        public readonly EventKind $kind,
        public readonly string $type,
        public readonly string $id,
        public readonly array $values,
        public readonly ?string $by,
        public readonly string $at,
        public readonly array $taken = [],
    ) {
    }

    /** @param  array<string, mixed>  $values */
    public static function created(string $type, string $id, array $values, ?string $by, string $at): self
    {
        return new self(EventKind::Created, $type, $id, $values, $by, $at);
    }

    /**
     * What follows from other records: nothing comes in, but tallies may have other values.
     *
     * @param  array<string, mixed>  $tallies  stored values by field
     */
    public static function followed(string $type, string $id, array $tallies, string $at): self
    {
        return new self(EventKind::Changed, $type, $id, [], null, $at, $tallies);
    }

    /** @param  array<string, mixed>  $values */
    public static function changed(string $type, string $id, array $values, ?string $by, string $at): self
    {
        return new self(EventKind::Changed, $type, $id, $values, $by, $at);
    }
}
