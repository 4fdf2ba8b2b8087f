<?php

declare(strict_types=1);

namespace Sorvel\Core\Model;

use Brick\Math\BigDecimal;
use Sorvel\Core\Feel\Number;

/**
 * One record. A stored value is a text, int, BigDecimal, bool or list of texts; people, teams and records stand as
 * their key or id; an empty field has no entry.
 */
final class Record
{
    /** Under this key stands which rules that act once have acted. */
    public const ONCE = 'once#';

    /** @param  array<string, mixed>  $values by field key */
    public function __construct(public readonly string $id, public readonly string $type, public readonly array $values)
    {
    }

    /** The key under which bookkeeping of a field is kept with the record; no field is called so, and nobody is shown it. */
    public static function beside(string $field): string
    {
        return $field.'#';
    }

    public function value(string $field): mixed
    {
        return $this->values[$field] ?? null;
    }

    public function with(string $field, mixed $value): self
    {
        $values = $this->values;
        if ($value === null || $value === '' || $value === []) {
            unset($values[$field]);
        } else {
            $values[$field] = $value;
        }

        return new self($this->id, $this->type, $values);
    }

    public static function isEmpty(mixed $value): bool
    {
        return $value === null || $value === '' || $value === [];
    }

    public static function same(mixed $a, mixed $b): bool
    {
        if ($a === $b) {
            return true;
        }
        if ($a === null || $a === '' || $a === []) {
            return $b === null || $b === '' || $b === [];
        }

        // a whole number may also stand as a decimal
        return ($a instanceof BigDecimal || $b instanceof BigDecimal) && Number::is($a) && Number::is($b) && Number::compare($a, $b) === 0;
    }

    /** Plain data, fields in order of key: the same values give the same text. */
    public function fingerprint(): string
    {
        $values = self::json($this->values);
        ksort($values);

        return (string) json_encode($values);
    }

    /**
     * @param  array<string, mixed>  $values
     * @return array<string, mixed>
     */
    public static function json(array $values): array
    {
        return array_map(self::plain(...), array_filter($values, fn (string|int $key): bool => ! str_ends_with((string) $key, '#'), ARRAY_FILTER_USE_KEY));
    }

    /** A stored value as plain JSON data. */
    public static function plain(mixed $value): mixed
    {
        return $value instanceof BigDecimal ? Number::json($value) : $value;
    }
}
