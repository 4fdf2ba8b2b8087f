<?php

declare(strict_types=1);

namespace Sorvel\Core\Model;

use Brick\Math\BigDecimal;
use Sorvel\Core\Feel\Number;

/** Ids of records in memory by type, field and value: made for a field when first asked for, and kept right from then on. */
final class FieldIndex
{
    /** @var array<string, array<string, array<string, array<string, true>>>> ids by type, field and value */
    private array $ids = [];

    /**
     * @param  array<array-key, Record>  $all  every record there is
     * @param  list<mixed>  $values  stored
     * @return array<string, true> ids of those whose field holds one of the values
     */
    public function holding(array $all, string $type, string $field, array $values): array
    {
        if (! isset($this->ids[$type][$field])) {
            $this->ids[$type][$field] = [];
            foreach ($all as $record) {
                $record->type === $type && $this->put($record, $field);
            }
        }
        $found = [];
        foreach ($values as $value) {
            $found += $this->ids[$type][$field][self::word($value)] ?? [];
        }

        return $found;
    }

    /**
     * @param  array<array-key, Record>  $all  every record there is, by id
     * @param  list<Condition>  $conditions
     * @return list<string> ids of those that meet all of them
     */
    public function matching(array $all, string $type, array $conditions): array
    {
        $candidates = null;
        foreach ($conditions as $condition) {
            // the narrowest of what can be looked up
            if ($condition->test === 'in' && $condition->field !== 'id') {
                $these = $this->holding($all, $type, $condition->field, $condition->values);
                $candidates = $candidates === null || count($these) < count($candidates) ? $these : $candidates;
            }
        }
        $found = [];
        foreach ($candidates ?? $all as $id => $_) {
            $record = $all[$id];
            if ($record->type === $type) {
                foreach ($conditions as $condition) {
                    if (! $condition->holds($record)) {
                        continue 2;
                    }
                }
                $found[] = $record->id;
            }
        }

        return $found;
    }

    /** A record is there now. */
    public function note(Record $record): void
    {
        foreach ($this->ids[$record->type] ?? [] as $field => $_) {
            $this->put($record, (string) $field);
        }
    }

    /** A record is no longer there, or will be noted anew. */
    public function forget(?Record $record): void
    {
        if ($record === null) {
            return;
        }
        foreach ($this->ids[$record->type] ?? [] as $field => $_) {
            foreach ((array) $record->value((string) $field) as $value) {
                unset($this->ids[$record->type][$field][self::word($value)][$record->id]);
            }
        }
    }

    private function put(Record $record, string $field): void
    {
        foreach ((array) $record->value($field) as $value) {
            $this->ids[$record->type][$field][self::word($value)][$record->id] = true;
        }
    }

    private static function word(mixed $value): string
    {
        return match (true) {
            is_string($value) => 't'.$value,
            is_int($value) || $value instanceof BigDecimal => 'n'.Number::text(Number::of($value)),
            default => 'b'.json_encode($value),
        };
    }
}
