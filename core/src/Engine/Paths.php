<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

use Sorvel\Core\Feel\Compiler;
use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Feel\KnownPaths;
use Sorvel\Core\Feel\Node;
use Sorvel\Core\Feel\Node\Name;
use Sorvel\Core\Feel\Node\Path;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\FieldType;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\State;

/**
 * What stands in a formula for a field of the record, or of a record, person or team that it refers to, as PHP that reads
 * it where it is stored; over the EventScope $e. Where something that is referred to is not there, the event is walked.
 */
final class Paths implements KnownPaths
{
    private const WORDS = [FieldType::Text, FieldType::LongText, FieldType::Choice, FieldType::State];

    /**
     * @param  array<string, RecordType>  $types
     * @param  array<string, string>  $own  by field that stands bare, the PHP that reads what is stored
     * @param  array<string, string>  $record  the same by field that stands behind `record`
     * @param  string|null  $notes  where what is read on the way is noted
     * @param  list<string>  $hidden  names that stand for something else
     * @param  array<string, Node>  $aliases  names that stand for a path
     */
    public function __construct(private readonly array $types, private readonly RecordType $type, private readonly RecordType $event, private readonly array $own, private readonly array $record, private readonly ?string $notes = null, private readonly array $hidden = [], private readonly array $aliases = [])
    {
    }

    /**
     * Whether a candidate meets a condition, as PHP over the Record $o; null where something that is read of it is not seen
     * as it is stored.
     *
     * @param  array<string, RecordType>  $types
     * @param  array<string, string>  $record  by field of `record`, the PHP that reads what is stored
     */
    public static function candidate(Formula $where, RecordType $type, RecordType $event, array $types, array $record): ?string
    {
        [$own, $known] = [['id' => '$o->id'], []];
        foreach ($type->fields as $field) {
            $own[$field->key] = sprintf('($o->values[%s]??null)', var_export($field->key, true));
            if (! $field->isPlain) {
                $known[$field->key] = '$?';
            }
        }
        $code = (new Compiler($known, new self($types, $type, $event, $own, $record)))->condition($where->tree);

        return str_contains($code, '$?') ? null : $code;
    }

    /** The name that a path begins with. */
    public static function root(Node $node): ?string
    {
        while ($node instanceof Path) {
            $node = $node->of;
        }

        return $node instanceof Name ? $node->name : null;
    }

    public function value(Node $node): ?string
    {
        $at = $this->of($node);

        return $at !== null && $at['isPlain'] ? $at['code'] : null;
    }

    public function word(Node $node): ?string
    {
        $at = $this->of($node);
        if ($at === null) {
            return null;
        }

        return match (true) {
            $at['isPlain'] && in_array($at['type'], self::WORDS, true) => $at['code'],
            $at['type'] === FieldType::Reference && $at['to'] !== null => sprintf('(($i=%s)===null?null:%s->id)', $at['code'], self::met($at['to'])),
            $at['type'] === FieldType::Person => sprintf('(($i=%s)===null?null:($e->people[$i]??$e->leave())->key)', $at['code']),
            $at['type'] === FieldType::Team => sprintf('(($i=%s)===null?null:($e->teams[$i]??$e->leave())->key)', $at['code']),
            default => null,
        };
    }

    public function ofTheEvent(string $function, array $arguments): ?string
    {
        if (isset($this->own[$function]) || in_array($function, $this->hidden, true)) {
            return null;
        }
        $states = implode(',', array_map(fn (State $s): string => var_export($s->key, true).'=>'.var_export($s->open, true), $this->event->states));

        return match ($function.' '.count($arguments)) {
            'now 0', 'today 0' => sprintf('$e->%s()', $function),
            'open 1' => sprintf('(is_string($i=%s)?([%s][$i]??null):null)', $arguments[0], $states),
            default => null,
        };
    }

    /** @return array{code: string, type: FieldType, to: string|null, isPlain: bool, path: string, field: Field|null}|null what is stored there, and what it is */
    public function of(Node $node): ?array
    {
        if ($node instanceof Name && isset($this->aliases[$node->name])) {
            return $this->of($this->aliases[$node->name]);
        }
        if ($node instanceof Name) {
            return $node->name === 'id' && isset($this->own['id']) ? $this->id($this->own['id']) : $this->field($this->type, $this->own, $node->name);
        }
        if (! $node instanceof Path) {
            return null;
        }
        if ($node->of instanceof Name && $node->of->name === 'record') {
            return $node->name === 'id' ? ($this->record === [] ? null : $this->id('$e->id')) : $this->field($this->event, $this->record, $node->name);
        }
        $at = $this->of($node->of);
        if ($at === null) {
            return null;
        }
        if ($at['type'] === FieldType::Person && $node->name === 'team') {
            return ['code' => sprintf('(($i=%s)===null?null:$e->teamOf($i))', $at['code']), 'type' => FieldType::Team, 'to' => null, 'isPlain' => false, 'path' => '', 'field' => null];
        }
        if ($at['type'] === FieldType::Person && $node->name === 'name') {
            return ['code' => sprintf('(($i=%s)===null?null:($e->people[$i]??$e->leave())->name)', $at['code']), 'type' => FieldType::Text, 'to' => null, 'isPlain' => true, 'path' => '', 'field' => null];
        }
        if ($at['type'] !== FieldType::Reference || $at['to'] === null) {
            return null;
        }
        if ($node->name === 'id') {
            return $this->id(sprintf('(($i=%s)===null?null:%s->id)', $at['code'], self::met($at['to'])));
        }
        $field = $this->types[$at['to']]->fields[$node->name] ?? null;
        if ($field === null) {
            return null;
        }
        $path = $at['path'].'.'.$field->key;
        $read = sprintf('%s->values[%s]??null', self::met($at['to']), var_export($field->key, true));

        return ['code' => sprintf('(($i=%s)===null?null:(%s%s))', $at['code'], $this->notes === null ? '' : sprintf('%s[%s]=', $this->notes, var_export($path, true)), $read), 'type' => $field->behavesAs(), 'to' => $field->to, 'isPlain' => $field->isPlain, 'path' => $path, 'field' => $field];
    }

    /**
     * @param  array<string, string>  $read
     * @return array{code: string, type: FieldType, to: string|null, isPlain: bool, path: string, field: Field|null}|null
     */
    private function field(RecordType $type, array $read, string $name): ?array
    {
        $field = $type->fields[$name] ?? null;

        if ($field === null || ! isset($read[$name])) {
            return null;
        }
        $code = $this->notes === null ? $read[$name] : sprintf('(%s[%s]=%s)', $this->notes, var_export($name, true), $read[$name]);

        return ['code' => $code, 'type' => $field->behavesAs(), 'to' => $field->to, 'isPlain' => $field->isPlain, 'path' => $name, 'field' => $field];
    }

    /** @return array{code: string, type: FieldType, to: string|null, isPlain: bool, path: string, field: Field|null} */
    private function id(string $code): array
    {
        return ['code' => $code, 'type' => FieldType::Text, 'to' => null, 'isPlain' => true, 'path' => '', 'field' => null];
    }

    /** The record whose id is in $i. */
    private static function met(string $type): string
    {
        return sprintf('($e->met[$i]??$e->meet($i,%s))', var_export($type, true));
    }
}
