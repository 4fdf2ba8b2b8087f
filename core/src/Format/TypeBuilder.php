<?php

declare(strict_types=1);

namespace Sorvel\Core\Format;

use Sorvel\Core\Feel\Number;
use Sorvel\Core\Finding\FormulaCheck;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\FieldType;
use Sorvel\Core\Model\Option;
use Sorvel\Core\Model\Person;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\State;
use Sorvel\Core\Model\Team;

/** Record types and their fields. */
final class TypeBuilder
{
    private const RESERVED = ['id', 'record', 'was', 'event', 'changed', 'open', 'item', 'number', 'state', 'assignee', 'team', 'tags', 'requester', 'created_at', 'created_by', 'changed_at', 'acted', 'still', 'problems', 'refused'];

    /** Keys of the format that belong to some field types only. */
    private const ONLY_FOR = ['options' => ['choice', 'choices', 'two_step_choice'], 'to' => ['reference', 'references'], 'min' => ['number', 'percent'], 'max' => ['number', 'percent'], 'decimals' => ['number', 'percent'], 'pattern' => ['text', 'long_text'], 'bands' => ['percent']];

    public function __construct(private readonly RulebookBuilder $book)
    {
    }

    /**
     * @param  list<array<string, mixed>>  $list
     * @param  array<string, Person>  $people
     * @param  array<string, Team>  $teams
     * @return array<string, RecordType>
     */
    public function types(array $list, array $people, array $teams): array
    {
        $types = [];
        $keys = array_column($list, 'key');
        $shorts = [];
        foreach ($list as $i => $t) {
            $path = '/types/'.$i;
            $type = $this->type($t, $path, $keys);
            if ($type->short !== null && isset($shorts[$type->short])) {
                $this->book->error($path.'/short', sprintf('The short name %s already belongs to "%s".', $type->short, $shorts[$type->short]));
            }
            $shorts[(string) $type->short] = $type->key;
            if ($this->book->isNew($path, $type->key, $types, 'a type')) {
                $types[$type->key] = $type;
            }
        }

        return $types;
    }

    /**
     * @param  list<array<string, mixed>>  $list
     * @param  array<string, RecordType>  $types
     * @param  callable(RecordType): \Sorvel\Core\Finding\Names  $names
     */
    public function checkDefaults(array $list, array $types, callable $names): void
    {
        foreach ($list as $i => $t) {
            foreach ($t['fields'] as $f => $tree) {
                $field = $types[$t['key']]->fields[$tree['key']] ?? null;
                if ($field?->default !== null) {
                    $this->book->take(sprintf('/types/%d/fields/%d/default', $i, $f), FormulaCheck::value($field->default, $field, $names($types[$t['key']])));
                }
            }
        }
    }

    /**
     * @param  array<string, mixed>  $t
     * @param  list<string>  $keys
     */
    private function type(array $t, string $path, array $keys): RecordType
    {
        $isTicket = $t['kind'] === 'ticket';
        $states = [];
        foreach ($t['states'] ?? [] as $i => $s) {
            if ($this->book->isNew($path.'/states/'.$i, $s['key'], $states, 'a state')) {
                $states[$s['key']] = new State($s['key'], $s['label'], $s['open']);
            }
        }
        if ($isTicket && $states === []) {
            $this->book->error($path, 'A ticket type needs states.');
        }
        if ($isTicket && ! isset($t['short'])) {
            $this->book->error($path, 'A ticket type needs a short name, such as F, for its numbers.');
        }
        if (! $isTicket && $states !== []) {
            $this->book->error($path.'/states', 'A register has no states.');
        }
        $fields = $isTicket ? $this->builtIn($states, $t['key']) : [];
        foreach ($t['fields'] as $i => $f) {
            $field = $this->field($f, $path.'/fields/'.$i, $keys, $t['key']);
            if ($field !== null && $this->book->isNew($path.'/fields/'.$i, $field->key, $fields, 'a field')) {
                $fields[$field->key] = $field;
            }
        }
        $name = $t['name_field'] ?? null;
        if ($name !== null && ($fields[$name] ?? null)?->type !== FieldType::Text) {
            $this->book->error($path.'/name_field', sprintf('"%s" is not a text field of this type.', $name));
        }

        return new RecordType($t['key'], $t['title'], $isTicket, $fields, $name, $t['short'] ?? null, $states, $this->moves($t, $path, $states));
    }

    /**
     * @param  array<string, mixed>  $t
     * @param  array<string, State>  $states
     * @return array<string, list<string>>|null
     */
    private function moves(array $t, string $path, array $states): ?array
    {
        if (! isset($t['moves'])) {
            return null;
        }
        $moves = [];
        foreach ($t['moves'] as $i => $move) {
            foreach ([$move['from'], ...$move['to']] as $state) {
                if (! isset($states[$state])) {
                    $this->book->error($path.'/moves/'.$i, sprintf('There is no state "%s".', $state));
                }
            }
            $moves[$move['from']] = array_values(array_unique([...$moves[$move['from']] ?? [], ...$move['to']]));
        }

        return $moves;
    }

    /**
     * @param  array<string, State>  $states
     * @return array<string, Field>
     */
    private function builtIn(array $states, string $of): array
    {
        $options = array_map(fn (State $s): Option => new Option($s->key, $s->label), $states);

        return [
            'number' => new Field('number', 'Number', FieldType::Text, builtIn: true, fixed: true, of: $of),
            'state' => new Field('state', 'State', FieldType::State, $options, builtIn: true, of: $of),
            'assignee' => new Field('assignee', 'Assignee', FieldType::Person, builtIn: true, of: $of),
            'team' => new Field('team', 'Team', FieldType::Team, builtIn: true, of: $of),
            'tags' => new Field('tags', 'Tags', FieldType::Tags, builtIn: true, of: $of),
            'requester' => new Field('requester', 'Requester', FieldType::Person, builtIn: true, of: $of),
            'created_at' => new Field('created_at', 'Created', FieldType::DateTime, builtIn: true, fixed: true, of: $of),
            'created_by' => new Field('created_by', 'Created by', FieldType::Person, builtIn: true, fixed: true, of: $of),
            'changed_at' => new Field('changed_at', 'Changed', FieldType::DateTime, builtIn: true, fixed: true, of: $of),
        ];
    }

    /**
     * @param  array<string, mixed>  $f
     * @param  list<string>  $keys
     */
    private function field(array $f, string $path, array $keys, string $of): ?Field
    {
        $type = FieldType::from($f['type']);
        if ($type->kind() === null) {
            $this->book->unsupported($path.'/type', sprintf('Fields of type %s are', $type->value));

            return null;
        }
        if (in_array($f['key'], self::RESERVED, true)) {
            $this->book->error($path.'/key', sprintf('"%s" is a built-in name; give the field another key.', $f['key']));
        }
        if (isset($f['requester'])) {
            $this->book->unsupported($path.'/requester', 'What the requester sees of a field is');
        }
        foreach (self::ONLY_FOR as $key => $only) {
            if (isset($f[$key]) && ! in_array($type->value, $only, true)) {
                $this->book->error($path.'/'.$key, sprintf('"%s" means nothing for a field of type %s.', $key, $type->value));
            }
        }
        foreach (['formula', 'of', 'via', 'measure', 'field', 'where', 'include', 'tree'] as $key) {
            if (isset($f[$key])) {
                $this->book->error($path.'/'.$key, sprintf('"%s" means nothing for a field of type %s.', $key, $type->value));
            }
        }
        $options = $this->options($f['options'] ?? [], $path.'/options', $type);
        if (in_array($type, [FieldType::Choice, FieldType::Choices, FieldType::TwoStepChoice], true) && $options === []) {
            $this->book->error($path, 'A choice needs options.');
        }
        if (in_array($type, [FieldType::Reference, FieldType::References], true) && ! in_array($f['to'] ?? null, $keys, true)) {
            $this->book->error($path.(isset($f['to']) ? '/to' : ''), isset($f['to']) ? sprintf('There is no type "%s" to refer to.', $f['to']) : 'A reference needs "to", the type it points to.');
        }
        if (isset($f['pattern']) && @preg_match('~'.str_replace('~', '\~', $f['pattern']).'~u', '') === false) {
            $this->book->error($path.'/pattern', 'This is not a regular expression.');
        }
        $number = fn (string $key): int|\Brick\Math\BigDecimal|null => ! isset($f[$key]) ? null : (is_int($f[$key]) ? $f[$key] : Number::fromFloat((float) $f[$key]));
        [$min, $max] = [$number('min'), $number('max')];
        if ($min !== null && $max !== null && Number::compare($min, $max) > 0) {
            $this->book->error($path.'/min', 'The least value is above the greatest.');
        }

        return new Field(
            $f['key'], $f['label'], $type, $options, $f['to'] ?? null, $f['required'] ?? false,
            isset($f['default']) ? $this->book->formula($path.'/default', $f['default']) : null,
            $min, $max, $f['decimals'] ?? null, $f['pattern'] ?? null, $f['active'] ?? true, of: $of,
        );
    }

    /**
     * @param  list<array<string, mixed>>  $list
     * @param  array<string, Option>  $options  those found before
     * @return array<string, Option> by key; in a two-step choice each first step is followed by those below it
     */
    private function options(array $list, string $path, FieldType $type, array $options = [], ?string $parent = null): array
    {
        foreach ($list as $i => $o) {
            if (! $this->book->isNew($path.'/'.$i, $o['key'], $options, 'an option')) {
                continue;
            }
            $options[$o['key']] = new Option($o['key'], $o['label'], $o['active'] ?? true, $parent);
            if (isset($o['children']) && ($type !== FieldType::TwoStepChoice || $parent !== null)) {
                $this->book->error($path.'/'.$i.'/children', $parent !== null ? 'There are two steps, not three.' : 'Only the options of a two_step_choice have children.');
            } elseif (isset($o['children'])) {
                $options = $this->options($o['children'], $path.'/'.$i.'/children', $type, $options, $o['key']);
            }
        }

        return $options;
    }
}
