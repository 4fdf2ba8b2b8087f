<?php

declare(strict_types=1);

namespace Sorvel\Core\Model;

enum FieldType: string
{
    case Text = 'text';
    case LongText = 'long_text';
    case RichText = 'rich_text';
    case Number = 'number';
    case Percent = 'percent';
    case YesNo = 'yes_no';
    case Date = 'date';
    case DateTime = 'date_time';
    case Duration = 'duration';
    case Choice = 'choice';
    case Choices = 'choices';
    case TwoStepChoice = 'two_step_choice';
    case Tags = 'tags';
    case Person = 'person';
    case People = 'people';
    case Team = 'team';
    case Reference = 'reference';
    case References = 'references';
    case Derived = 'derived';
    case Tally = 'tally';
    /** The built-in state of a ticket; not to be declared. */
    case State = 'state';

    /** How values of this type behave. */
    public function kind(): Kind\FieldKind
    {
        return match ($this) {
            self::Text, self::LongText => new Kind\TextKind,
            self::RichText => new Kind\RichTextKind,
            self::Number, self::Percent => new Kind\NumberKind,
            self::YesNo => new Kind\YesNoKind,
            self::Date => new Kind\DateKind,
            self::DateTime => new Kind\DateTimeKind,
            self::Duration => new Kind\DurationKind,
            self::Choice => new Kind\ChoiceKind,
            self::Choices => new Kind\ChoicesKind,
            self::TwoStepChoice => new Kind\TwoStepChoiceKind,
            self::Tags => new Kind\TagsKind,
            self::Person => new Kind\PersonKind,
            self::People => new Kind\ListOf(new Kind\PersonKind),
            self::Team => new Kind\TeamKind,
            self::Reference => new Kind\ReferenceKind,
            self::References => new Kind\ListOf(new Kind\ReferenceKind),
            self::State => new Kind\StateKind,
            self::Derived, self::Tally => new Kind\ComputedKind,
        };
    }

    /** Whether a formula sees a value as it is stored. */
    public function isPlain(): bool
    {
        return in_array($this, [self::Text, self::LongText, self::RichText, self::Number, self::Percent, self::YesNo, self::Choice, self::Choices, self::Tags, self::State], true);
    }

    /** Whether its values have an order, other than that of options as they are listed. */
    public function hasOrder(): bool
    {
        return in_array($this, [self::Number, self::Percent, self::Date, self::DateTime, self::Duration], true);
    }

    public function isList(): bool
    {
        return in_array($this, [self::Tags, self::Choices, self::People, self::References], true);
    }
}
