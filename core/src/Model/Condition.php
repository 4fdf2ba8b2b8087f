<?php

declare(strict_types=1);

namespace Sorvel\Core\Model;

use Brick\Math\BigDecimal;
use Sorvel\Core\Feel\Number;

/** What a stored value must be for a record to be looked at. Stores answer it from an index where they have one. */
final class Condition
{
    /**
     * @param  string  $field  a key; `id` is one too
     * @param  'in'|'empty'|'<'|'<='|'>'|'>='  $test
     * @param  list<string|int|bool|BigDecimal>  $values  stored values; one for an order, none for `empty`
     */
    public function __construct(public readonly string $field, public readonly string $test, public readonly array $values = [])
    {
    }

    public function holds(Record $record): bool
    {
        $stored = $this->field === 'id' ? $record->id : $record->value($this->field);
        if ($this->test === 'empty') {
            return Record::isEmpty($stored);
        }
        if (Record::isEmpty($stored) || is_array($stored)) {
            return false;
        }
        if ($this->test === 'in') {
            foreach ($this->values as $value) {
                if (Record::same($stored, $value)) {
                    return true;
                }
            }

            return false;
        }
        $order = self::order($stored, $this->values[0] ?? null);

        return $order !== null && match ($this->test) {
            '<' => $order < 0, '<=' => $order <= 0, '>' => $order > 0, '>=' => $order >= 0
        };
    }

    private static function order(mixed $a, mixed $b): ?int
    {
        if ((is_int($a) || $a instanceof BigDecimal) && (is_int($b) || $b instanceof BigDecimal)) {
            return Number::compare($a, $b);
        }

        // dates and moments are stored so that texts sort as they do
        return is_string($a) && is_string($b) ? strcmp($a, $b) : null;
    }
}
