<?php

declare(strict_types=1);

namespace Sorvel\App\Impact;

use Sorvel\Core\Impact\PastEvent;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Rulebook;

/** A past event as a sample: exactly the records that were read, what came in, and what came out then. What the rulebook no longer has is left out. */
final class SampleFromPast
{
    /** @return array<string, mixed> */
    public static function tree(PastEvent $past, Rulebook $rulebook, string $key): array
    {
        $type = $rulebook->types[$past->type];
        $given = [];
        foreach ($past->reads['records'] as $of => $records) {
            foreach ($records as $values) {
                $id = (string) ($values['id'] ?? '');
                if (isset($rulebook->types[$of]) && $id !== $past->id) {
                    $given[$of][] = ['id' => $id, ...self::known($values, $rulebook->types[$of])];
                }
            }
        }
        if ($past->before !== null) {
            $given[$past->type][] = ['id' => $past->id, ...self::known($past->before, $type)];
        }
        $given = self::whole($given, $past->id, $rulebook);
        $clock = (new \DateTimeImmutable($past->at))->setTimezone(new \DateTimeZone($rulebook->timezone));
        $values = self::known($past->values, $type);
        $step = match ($past->kind) {
            'created' => ['create' => $type->key, 'as' => $past->id, 'with' => $values],
            'deleted' => ['delete' => $past->id],
            'received' => ['receive' => [...array_filter((array) ($past->data['message'] ?? []), is_string(...)), ...($past->before === null ? ['opens' => $type->key] : ['about' => $past->id])], ...($past->before === null ? ['as' => $past->id] : [])],
            'answered' => ['answer' => array_filter(['call' => $past->data['call'] ?? '', 'status' => $past->data['status'] ?? null, 'body' => $past->data['body'] ?? null], fn (mixed $v): bool => $v !== null), 'on' => $past->id],
            'by_hand' => ['by_hand' => (string) array_key_first($past->due), 'on' => $past->id, 'with' => (array) ($past->data['inputs'] ?? [])],
            'at' => ['clock' => $clock->format('Y-m-d\TH:i:s')],
            default => ['change' => $past->id, 'with' => $values],
        };
        if ($past->by !== null && isset($rulebook->people[$past->by]) && in_array($past->kind, ['created', 'changed', 'deleted', 'by_hand'], true)) {
            $step['by'] = $past->by;
        }
        $expected = [];
        foreach ($type->fields as $field) {
            $start = $past->values[$field->key] ?? $past->before[$field->key] ?? null;
            $after = $past->after[$field->key] ?? null;
            if (! $field->fixed && $field->key !== 'state' && $after !== $start && ! (Record::isEmpty($after) && Record::isEmpty($start))) {
                $expected[$field->key] = $after;
            }
        }
        $acted = array_values(array_filter($past->acted, fn (string $r): bool => isset($rulebook->rules[$r])));
        $step['expect'] = [...($expected === [] ? [] : [$past->id => $expected]), ...($acted === [] ? [] : ['acted' => $acted])];

        return [
            'key' => $key, 'title' => $past->title($type), 'proves' => $acted === [] ? 'stay_still' : 'act', 'rules' => $acted, 'taken_from' => $past->id,
            'clock' => ($past->kind === 'at' ? $clock->modify('-1 day') : $clock)->format('Y-m-d\TH:i:s'), ...($given === [] ? [] : ['given' => $given]), 'steps' => [$step],
        ];
    }

    /**
     * A reference to what was not read leads nowhere and is left out.
     *
     * @param  array<string, list<array<string, mixed>>>  $given
     * @return array<string, list<array<string, mixed>>>
     */
    private static function whole(array $given, string $own, Rulebook $rulebook): array
    {
        $there = [$own => true];
        foreach ($given as $records) {
            $there += array_fill_keys(array_map(fn (array $r): string => (string) $r['id'], $records), true);
        }
        foreach ($given as $type => $records) {
            foreach ($records as $i => $values) {
                foreach ($rulebook->types[$type]->fields as $field) {
                    if ($field->to !== null && isset($values[$field->key])) {
                        $kept = array_values(array_filter((array) $values[$field->key], fn (mixed $id): bool => is_string($id) && isset($there[$id])));
                        $given[$type][$i][$field->key] = is_array($values[$field->key]) ? $kept : $kept[0] ?? null;
                    }
                }
                $given[$type][$i] = array_filter($given[$type][$i], fn (mixed $v): bool => ! Record::isEmpty($v));
            }
        }

        return $given;
    }

    /**
     * @param  array<string, mixed>  $values
     * @return array<string, mixed>
     */
    private static function known(array $values, RecordType $type): array
    {
        return array_filter($values, fn (mixed $value, string|int $key): bool => isset($type->fields[$key]) && (! $type->fields[$key]->fixed || in_array($key, ['created_at', 'created_by', 'state'], true)) && ! $type->fields[$key]->isComputed() && $value !== null, ARRAY_FILTER_USE_BOTH);
    }
}
