<?php

declare(strict_types=1);

namespace Sorvel\Core\Finding;

use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\FieldType;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Table\HitPolicy;
use Sorvel\Core\Table\Input;
use Sorvel\Core\Table\Table;

/** What is known of a formula's value before it runs. */
final class KnownType
{
    /**
     * @param  'any'|'number'|'text'|'yes_no'|'date'|'date_time'|'time'|'duration'|'null'|'choice'|'person'|'team'|'record'|'list'|'function'|'context'  $what
     * @param  Field|null  $field  the field that it is the value of; for a choice or a state: whose options they are
     * @param  RecordType|null  $type  for a record
     * @param  array{int, int|null}|null  $arity  for a function: least and most arguments
     * @param  KnownType|null  $each  for a list: what is in it; for a function: what it gives
     * @param  array<array-key, KnownType>|null  $parts  for a context: its entries; for a function: its parameters
     */
    public function __construct(
        public readonly string $what,
        public readonly ?Field $field = null,
        public readonly ?RecordType $type = null,
        public readonly ?array $arity = null,
        public readonly ?KnownType $each = null,
        public readonly ?array $parts = null,
    ) {
    }

    public static function any(): self
    {
        return new self('any');
    }

    public static function listOf(self $each): self
    {
        return new self('list', each: $each);
    }

    /** @param  array<string, RecordType>  $types */
    public static function ofField(Field $field, array $types): self
    {
        return match ($field->behavesAs()) {
            FieldType::Number, FieldType::Percent => new self('number', $field),
            FieldType::YesNo => new self('yes_no', $field),
            FieldType::Date => new self('date', $field),
            FieldType::DateTime => new self('date_time', $field),
            FieldType::Duration => new self('duration', $field),
            FieldType::Choice, FieldType::State, FieldType::TwoStepChoice => new self('choice', $field),
            FieldType::Choices => new self('list', $field, each: new self('choice', $field)),
            FieldType::Tags => new self('list', $field, each: new self('text')),
            FieldType::Person => new self('person', $field),
            FieldType::People => new self('list', $field, each: new self('person')),
            FieldType::Team => new self('team', $field),
            FieldType::Reference => new self('record', $field, $types[(string) $field->to] ?? null),
            FieldType::References => new self('list', $field, each: new self('record', null, $types[(string) $field->to] ?? null)),
            FieldType::Derived, FieldType::Tally => new self('any', $field),
            default => new self('text', $field),
        };
    }

    /**
     * A table, called as a function.
     *
     * @param  array<string, RecordType>  $types
     */
    public static function ofTable(Table $table, array $types): self
    {
        $values = [];
        foreach ($table->outputs as $output) {
            $values[$output->key] = match (true) {
                $output->field !== null => self::ofField($output->field, $types),
                $output->type !== null => new self($output->type),
                default => self::any(),
            };
        }
        $one = count($values) === 1 ? array_values($values)[0] : new self('context', parts: $values);
        $gives = match ($table->hit) {
            HitPolicy::CollectSum, HitPolicy::CollectCount => new self('number'),
            HitPolicy::Collect, HitPolicy::OutputOrder, HitPolicy::RuleOrder => self::listOf($one),
            default => $one,
        };
        $takes = array_map(fn (Input $i): self => $i->field === null ? self::any() : self::ofField($i->field, $types), $table->inputs);

        return new self('function', arity: [count($takes), count($takes)], each: $gives, parts: $takes);
    }

    /** The field type that values like this have; null where that is not known well enough. */
    public function asFieldType(): ?FieldType
    {
        return match ($this->what) {
            'number' => FieldType::Number,
            'text' => FieldType::LongText,
            'yes_no' => FieldType::YesNo,
            'date' => FieldType::Date,
            'date_time' => FieldType::DateTime,
            'duration' => FieldType::Duration,
            'choice' => FieldType::Choice,
            'person' => FieldType::Person,
            'team' => FieldType::Team,
            'record' => $this->type === null ? null : FieldType::Reference,
            default => null,
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
            'date' => 'a date',
            'date_time' => 'a date and time',
            'time' => 'a time of day',
            'duration' => 'a duration',
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
