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

    /** How values of this type behave; null while the type is not supported yet. */
    public function kind(): ?Kind\FieldKind
    {
        return match ($this) {
            self::Text, self::LongText => new Kind\TextKind,
            self::Number, self::Percent => new Kind\NumberKind,
            self::YesNo => new Kind\YesNoKind,
            self::Choice => new Kind\ChoiceKind,
            self::Tags => new Kind\TagsKind,
            self::Person => new Kind\PersonKind,
            self::Team => new Kind\TeamKind,
            self::Reference => new Kind\ReferenceKind,
            self::State => new Kind\StateKind,
            default => null,
        };
    }

    public function isList(): bool
    {
        return in_array($this, [self::Tags, self::Choices, self::People, self::References], true);
    }
}
