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
    /** @param  array<string, mixed>  $values by field key */
    public function __construct(public readonly string $id, public readonly string $type, public readonly array $values)
    {
    }

    public function value(string $field): mixed
    {
        return $this->values[$field] ?? null;
    }

    public function with(string $field, mixed $value): self
    {
        $values = $this->values;
        if (self::isEmpty($value)) {
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
        if (self::isEmpty($a) || self::isEmpty($b)) {
            return self::isEmpty($a) && self::isEmpty($b);
        }
        if ((is_int($a) || $a instanceof BigDecimal) && (is_int($b) || $b instanceof BigDecimal)) {
            return Number::compare($a, $b) === 0;
        }

        return $a === $b;
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
        return array_map(self::plain(...), $values);
    }

    /** A stored value as plain JSON data. */
    public static function plain(mixed $value): mixed
    {
        return $value instanceof BigDecimal ? Number::json($value) : $value;
    }
}
