<?php

declare(strict_types=1);

namespace Sorvel\Core\Format;

use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Feel\Number;
use Sorvel\Core\Feel\Walk;
use Sorvel\Core\Finding\FormulaCheck;
use Sorvel\Core\Finding\KnownType;
use Sorvel\Core\Finding\Names;
use Sorvel\Core\Model\Dependencies;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\FieldType;
use Sorvel\Core\Model\Option;
use Sorvel\Core\Model\Person;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Role;
use Sorvel\Core\Model\Seen;
use Sorvel\Core\Model\State;
use Sorvel\Core\Model\Team;
use Sorvel\Core\Tally\Measure;
use Sorvel\Core\Tally\Tally;

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
     * @param  callable(RecordType): Names  $names
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
     * Derived fields, as what their formulas turn out to be. One may read another, so it is gone over until nothing is
     * learned any more.
     *
     * @param  array<string, RecordType>  $types
     * @param  \Closure(RecordType, array<string, RecordType>): Names  $names
     * @return array<string, RecordType>
     */
    public function inferred(array $types, \Closure $names): array
    {
        for ($round = 0; $round < 6; $round++) {
            $learned = false;
            foreach ($types as $key => $type) {
                $fields = $type->fields;
                foreach ($type->derived as $field) {
                    $known = $field->formula === null ? KnownType::any() : FormulaCheck::formula($field->formula, $names($type, $types))->type;
                    $as = $known->asFieldType();
                    if ($as !== null && $as !== $field->computed) {
                        $fields[$field->key] = $field->computedAs($as, $as === FieldType::Choice ? $known->field : null, $known->type?->key);
                        $learned = true;
                    }
                }
                $types[$key] = $fields === $type->fields ? $type : $type->withFields($fields);
            }
            if (! $learned) {
                break;
            }
        }

        return $types;
    }

    /**
     * Tally fields, once all types are known that they may count.
     *
     * @param  list<array<string, mixed>>  $list
     * @param  array<string, RecordType>  $types
     * @return array<string, RecordType>
     */
    public function tallied(array $list, array $types): array
    {
        foreach ($list as $i => $t) {
            $type = $types[$t['key']] ?? null;
            if ($type === null) {
                continue;
            }
            $fields = $type->fields;
            foreach ($t['fields'] as $f => $tree) {
                $field = $fields[$tree['key']] ?? null;
                if ($field?->type === FieldType::Tally) {
                    $fields[$field->key] = $this->tally($field, $tree, $type, $types, sprintf('/types/%d/fields/%d', $i, $f)) ?? $field;
                }
            }
            if ($fields !== $type->fields) {
                $types[$type->key] = $type->withFields($fields);
            }
        }

        return $types;
    }

    /**
     * @param  array<string, mixed>  $f
     * @param  array<string, RecordType>  $types
     */
    private function tally(Field $field, array $f, RecordType $on, array $types, string $path): ?Field
    {
        foreach (['of', 'via', 'measure'] as $key) {
            if (! isset($f[$key])) {
                $this->book->error($path, sprintf('A tally needs "%s".', $key));

                return null;
            }
        }
        [$of] = [...$this->book->typesOf($f['of'], $path.'/of', $types), null];
        $via = $of === null ? null : $this->book->fieldOf($of, $f['via'], $path.'/via');
        if ($of === null || $via === null) {
            return null;
        }
        if ($via->to !== $on->key) {
            $this->book->error($path.'/via', sprintf('%s does not refer to a %s.', $via->label, mb_strtolower($on->title)));
        }
        $measure = Measure::from($f['measure']);
        $measured = isset($f['field']) ? $this->book->fieldOf($of, $f['field'], $path.'/field') : null;
        if (($measure === Measure::Count) === isset($f['field'])) {
            $this->book->error($path.(isset($f['field']) ? '/field' : ''), $measure === Measure::Count ? 'A count counts records; "field" means nothing for it.' : sprintf('"%s" needs "field": what is measured.', $measure->value));
        }
        if ($measured?->active === false) {
            $this->book->error($path.'/field', sprintf('%s is retired and has no values any more.', $measured->label));
        }
        if ($measured !== null && ! in_array($measure, [Measure::Count, Measure::Distinct], true) && ! in_array($measured->behavesAs(), [FieldType::Number, FieldType::Percent, ...($measure === Measure::Min || $measure === Measure::Max ? [FieldType::Date, FieldType::DateTime] : [])], true)) {
            $this->book->error($path.'/field', sprintf('%s is no number, so it has no %s.', $measured->label, $measure->value));
        }
        $tree = null;
        if (($f['include'] ?? 'direct') === 'descendants') {
            $tree = isset($f['tree']) ? $this->book->fieldOf($on, $f['tree'], $path.'/tree') : null;
            if ($tree === null || $tree->to !== $on->key) {
                $this->book->error($path.(isset($f['tree']) ? '/tree' : ''), sprintf('"descendants" needs "tree": the field of a %s that refers to the one above it.', mb_strtolower($on->title)));
            }
        } elseif (isset($f['tree'])) {
            $this->book->error($path.'/tree', '"tree" means something with "include: descendants" only.');
        }
        $where = isset($f['where']) ? $this->book->formula($path.'/where', $f['where']) : null;
        $as = $measured !== null && ($measure === Measure::Min || $measure === Measure::Max) ? $measured->behavesAs() : FieldType::Number;

        return new Field($field->key, $field->label, $field->type, active: $field->active, fixed: true, of: $field->of, computed: $as, tally: new Tally($of->key, $via->key, $measure, $measured?->key, $where, $tree?->key), requester: $field->requester);
    }

    /**
     * @param  list<array<string, mixed>>  $list
     * @param  array<string, RecordType>  $types
     * @param  callable(RecordType): Names  $names
     */
    public function checkTallies(array $list, array $types, callable $names): void
    {
        foreach ($list as $i => $t) {
            foreach ($t['fields'] as $f => $tree) {
                $tally = ($types[$t['key']]->fields[$tree['key']] ?? null)?->tally;
                if ($tally?->where !== null) {
                    $path = sprintf('/types/%d/fields/%d/where', $i, $f);
                    $this->book->take($path, FormulaCheck::condition($tally->where, $names($types[$tally->of])));
                    if (Dependencies::of($tally->where->tree, $types[$tally->of], $types) !== []) {
                        $this->book->error($path, sprintf('Which records count is told by their own fields alone; give %s a derived field for what it reads elsewhere.', $types[$tally->of]->title));
                    }
                    foreach (array_intersect(['was', 'event', 'changed', 'today', 'now'], Walk::names($tally->where->tree)) as $name) {
                        $this->book->error($path, sprintf('What a tally counts follows from fields alone; "%s" is not one of them.', $name));
                    }
                }
            }
        }
    }

    /**
     * @param  list<array<string, mixed>>  $list
     * @param  array<string, RecordType>  $types
     * @param  callable(RecordType): Names  $names
     */
    public function checkDerived(array $list, array $types, callable $names): void
    {
        $reads = [];
        foreach ($list as $i => $t) {
            foreach ($t['fields'] as $f => $tree) {
                $field = $types[$t['key']]->fields[$tree['key']] ?? null;
                if ($field?->formula === null) {
                    continue;
                }
                $path = sprintf('/types/%d/fields/%d/formula', $i, $f);
                $checked = FormulaCheck::formula($field->formula, $names($types[$t['key']]));
                $this->book->take($path, $checked);
                foreach (array_intersect(['was', 'event', 'changed', 'today', 'now'], Walk::names($field->formula->tree)) as $name) {
                    $this->book->error($path, sprintf('A derived field follows from other fields alone; "%s" is not one of them.', $name));
                }
                foreach ($checked->mentions as $mention) {
                    $reads[$field->of.'.'.$field->key][$mention->field->of.'.'.$mention->field->key] = $path;
                }
            }
        }
        foreach ($reads as $name => $others) {
            $this->circle($name, $name, $reads, [], (string) array_values($others)[0]);
        }
    }

    /**
     * @param  array<string, array<string, string>>  $reads
     * @param  array<string, true>  $seen
     */
    private function circle(string $start, string $at, array $reads, array $seen, string $path): void
    {
        foreach (array_keys($reads[$at] ?? []) as $next) {
            if ($next === $start) {
                $this->book->error($path, $at === $start ? 'This field reads itself.' : sprintf('This field reads itself by way of %s.', $at));
            } elseif (isset($reads[$next]) && ! isset($seen[$next])) {
                $seen[$next] = true;
                $this->circle($start, (string) $next, $reads, $seen, $path);
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
            if ($this->book->isNew($path.'/fields/'.$i, $field->key, $fields, 'a field')) {
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
     * @return array<string, array<string, Role>>|null
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
            /** @var non-empty-list<string> $roles */
            $roles = $move['roles'] ?? ['agent'];
            $role = Role::least(array_map(Role::from(...), $roles));
            foreach ($move['to'] as $to) {
                $known = $moves[$move['from']][$to] ?? $role;
                $moves[$move['from']][$to] = Role::least([$known, $role]);
            }
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
            'state' => new Field('state', 'State', FieldType::State, $options, builtIn: true, of: $of, requester: Seen::ReadOnly),
            'assignee' => new Field('assignee', 'Assignee', FieldType::Person, builtIn: true, of: $of, requester: Seen::ReadOnly),
            'team' => new Field('team', 'Team', FieldType::Team, builtIn: true, of: $of, requester: Seen::ReadOnly),
            'tags' => new Field('tags', 'Tags', FieldType::Tags, builtIn: true, of: $of, requester: Seen::Hidden),
            'requester' => new Field('requester', 'Requester', FieldType::Person, builtIn: true, of: $of, requester: Seen::Hidden),
            'created_at' => new Field('created_at', 'Created', FieldType::DateTime, builtIn: true, fixed: true, of: $of),
            'created_by' => new Field('created_by', 'Created by', FieldType::Person, builtIn: true, fixed: true, of: $of, requester: Seen::Hidden),
            'changed_at' => new Field('changed_at', 'Changed', FieldType::DateTime, builtIn: true, fixed: true, of: $of),
        ];
    }

    /**
     * What a person is asked: like a field, that no record has.
     *
     * @param  array<string, mixed>  $f
     * @param  list<string>  $keys  of types
     */
    public function question(array $f, string $path, array $keys): Field
    {
        $field = $this->field($f, $path, $keys, '');
        if ($field->isComputed()) {
            $this->book->error($path.'/type', 'Nobody can be asked for what follows from other fields.');
        }

        return $field;
    }

    /**
     * @param  array<string, mixed>  $f
     * @param  list<string>  $keys
     */
    private function field(array $f, string $path, array $keys, string $of): Field
    {
        $type = FieldType::from($f['type']);
        if (in_array($f['key'], self::RESERVED, true)) {
            $this->book->error($path.'/key', sprintf('"%s" is a built-in name; give the field another key.', $f['key']));
        }
        foreach (self::ONLY_FOR as $key => $only) {
            if (isset($f[$key]) && ! in_array($type->value, $only, true)) {
                $this->book->error($path.'/'.$key, sprintf('"%s" means nothing for a field of type %s.', $key, $type->value));
            }
        }
        foreach ([...($type === FieldType::Derived ? [] : ['formula']), ...($type === FieldType::Tally ? [] : ['of', 'via', 'measure', 'field', 'where', 'include', 'tree'])] as $key) {
            if (isset($f[$key])) {
                $this->book->error($path.'/'.$key, sprintf('"%s" means nothing for a field of type %s.', $key, $type->value));
            }
        }
        if ($type === FieldType::Derived || $type === FieldType::Tally) {
            foreach (['required', 'default'] as $key) {
                if (isset($f[$key])) {
                    $this->book->error($path.'/'.$key, sprintf('"%s" means nothing for a %s field: its value always follows.', $key, $type->value));
                }
            }
            if ($type === FieldType::Derived && ! isset($f['formula'])) {
                $this->book->error($path, 'A derived field needs "formula".');
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
            $min, $max, $f['decimals'] ?? null, $f['pattern'] ?? null, $f['active'] ?? true, fixed: $type === FieldType::Derived || $type === FieldType::Tally, of: $of,
            formula: isset($f['formula']) && $type === FieldType::Derived ? $this->book->formula($path.'/formula', $f['formula']) ?? Formula::parse('null') : null,
            requester: Seen::from($f['requester'] ?? 'shown'), question: ($f['question'] ?? '') === '' ? null : $f['question'],
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
