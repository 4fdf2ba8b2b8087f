<?php

declare(strict_types=1);

namespace Sorvel\App\Ask;

use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\Option;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Role;
use Sorvel\Core\Model\Rulebook;
use Sorvel\Core\Model\Seen;
use Sorvel\Core\Model\State;

/** What requesters are asked, and what they see; nothing else of a type leaves the server on these pages. */
final class Form
{
    /** @return list<array<string, mixed>> ticket types that ask something */
    public static function types(Rulebook $rulebook): array
    {
        $types = [];
        foreach ($rulebook->types as $type) {
            $asked = array_values(array_filter($type->fields, fn (Field $f): bool => self::isAsked($f)));
            if ($type->isTicket && $asked !== []) {
                $types[] = [
                    'key' => $type->key, 'title' => $type->title, 'fields' => array_map(self::field(...), $asked),
                    'shown' => array_map(self::field(...), array_values(array_filter($type->fields, fn (Field $f): bool => self::isSeen($f) && $f->active))),
                    'states' => array_values(array_map(fn (State $s): array => ['key' => $s->key, 'label' => $s->label, 'open' => $s->open], $type->states)),
                ];
            }
        }

        return $types;
    }

    public static function isAsked(Field $field): bool
    {
        return $field->active && ! $field->fixed && $field->requester === Seen::Shown && ! $field->builtIn && ($field->question !== null || $field->required);
    }

    public static function isSeen(Field $field): bool
    {
        return $field->requester !== Seen::Hidden;
    }

    /** @return array<string, mixed> */
    public static function values(Record $record, RecordType $type): array
    {
        return Record::json(array_filter($record->values, fn (string $key): bool => isset($type->fields[$key]) && self::isSeen($type->fields[$key]), ARRAY_FILTER_USE_KEY));
    }

    /** @return list<array{key: string, label: string}> states that a requester may move a ticket to */
    public static function moves(Record $record, RecordType $type): array
    {
        $now = $record->value('state');
        $states = array_filter($type->states, fn (State $s): bool => is_string($now) && $s->key !== $now && $type->moveNeeds($now, $s->key) === Role::Requester);

        return array_values(array_map(fn (State $s): array => ['key' => $s->key, 'label' => $s->label], $states));
    }

    /** @return array<string, mixed> */
    private static function field(Field $field): array
    {
        $options = array_filter($field->options, fn (Option $o): bool => $o->parent === null);
        $below = fn (string $key): array => array_values(array_map(fn (Option $o): array => ['key' => $o->key, 'label' => $o->label, 'active' => $o->active], array_filter($field->options, fn (Option $o): bool => $o->parent === $key)));

        return [
            'key' => $field->key, 'label' => $field->label, 'question' => $field->question ?? $field->label, 'type' => $field->behavesAs()->value, 'required' => $field->required,
            ...($options === [] ? [] : ['options' => array_values(array_map(fn (Option $o): array => ['key' => $o->key, 'label' => $o->label, 'active' => $o->active, ...($below($o->key) === [] ? [] : ['children' => $below($o->key)])], $options))]),
            ...($field->to === null ? [] : ['to' => $field->to]),
            ...array_filter(['min' => Record::plain($field->min), 'max' => Record::plain($field->max), 'decimals' => $field->decimals, 'pattern' => $field->pattern], fn (mixed $v): bool => $v !== null),
        ];
    }
}
