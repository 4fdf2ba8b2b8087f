<?php

declare(strict_types=1);

namespace Sorvel\App\Desk;

use Sorvel\Core\Model\FieldType;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Rulebook;

/** Records that have to do with a ticket: those that refer to it, and tickets that refer to the same record. */
final class Related
{
    private const SHOWN = 5;

    public function __construct(private readonly Records $records)
    {
    }

    /** @return list<array{how: string, type: string, filter: array{field: string, value: string}, total: int, records: list<array{id: string, name: string, state: string|null}>}> */
    public function to(Record $record, Rulebook $rulebook): array
    {
        $found = [];
        foreach ($rulebook->types as $type) {
            foreach ($type->fields as $field) {
                if ($field->to === $record->type && ! $field->isComputed()) {
                    $found[] = $this->group($type, $field->key, $record->id, $record->id, sprintf('%s: %s', $type->title, $field->label), false);
                }
            }
        }
        $of = $rulebook->types[$record->type];
        foreach ($of->fields as $field) {
            $value = $record->value($field->key);
            if ($field->type === FieldType::Reference && is_string($value)) {
                $found[] = $this->group($of, $field->key, $value, $record->id, sprintf('Same %s, open', mb_strtolower($field->label)), true);
            }
        }

        return array_values(array_filter($found, fn (array $group): bool => $group['total'] > 0));
    }

    /** @return array{how: string, type: string, filter: array{field: string, value: string}, total: int, records: list<array{id: string, name: string, state: string|null}>} */
    private function group(RecordType $type, string $field, string $value, string $but, string $how, bool $openOnly): array
    {
        $open = array_map(strval(...), array_keys(array_filter($type->states, fn ($state): bool => $state->open)));
        [$records, $total] = $this->records->sharing($type->key, $field, $value, $but, $openOnly ? $open : null, self::SHOWN);

        return ['how' => $how, 'type' => $type->key, 'filter' => ['field' => $field, 'value' => $value], 'total' => $total, 'records' => $records];
    }
}
