<?php

declare(strict_types=1);

namespace Sorvel\Core\Finding;

use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\FieldType;
use Sorvel\Core\Model\RecordType;

/** What is known of a formula's value before it runs. */
final class KnownType
{
    /**
     * @param  'any'|'number'|'text'|'yes_no'|'null'|'choice'|'person'|'team'|'record'|'list'|'function'|'context'  $what
     * @param  Field|null  $field  for a choice or a state: whose options they are
     * @param  RecordType|null  $type  for a record
     * @param  array{int, int|null}|null  $arity  for a function: least and most arguments
     */
    public function __construct(
        public readonly string $what,
        public readonly ?Field $field = null,
        public readonly ?RecordType $type = null,
        public readonly ?array $arity = null,
    ) {
    }

    public static function any(): self
    {
        return new self('any');
    }

    /** @param  array<string, RecordType>  $types */
    public static function ofField(Field $field, array $types): self
    {
        return match ($field->type) {
            FieldType::Number, FieldType::Percent => new self('number'),
            FieldType::YesNo => new self('yes_no'),
            FieldType::Choice, FieldType::State => new self('choice', $field),
            FieldType::Tags => new self('list'),
            FieldType::Person => new self('person'),
            FieldType::Team => new self('team'),
            FieldType::Reference => new self('record', type: $types[(string) $field->to] ?? null),
            default => new self('text'),
        };
    }

    public function say(): string
    {
        return match ($this->what) {
            'number' => 'a number',
            'text' => 'a text',
            'yes_no' => 'a yes/no',
            'choice' => 'an option of '.($this->field->label ?? 'a choice'),
            'person' => 'a person',
            'team' => 'a team',
            'record' => 'a '.strtolower($this->type->title ?? 'record'),
            'list' => 'a list',
            'function' => 'a function',
            default => 'a value',
        };
    }

    /** Whether values of the two can ever be equal. */
    public function comparable(self $other): bool
    {
        $loose = ['any', 'null', 'list', 'context'];
        if (in_array($this->what, $loose, true) || in_array($other->what, $loose, true) || $this->what === $other->what) {
            return true;
        }
        $texts = ['text', 'choice', 'person', 'team', 'record'];

        return ($this->what === 'text' && in_array($other->what, $texts, true)) || ($other->what === 'text' && in_array($this->what, $texts, true));
    }
}
