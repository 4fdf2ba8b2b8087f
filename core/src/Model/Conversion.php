<?php

declare(strict_types=1);

namespace Sorvel\Core\Model;

/** A field that becomes another type: what its values become, and which cannot. */
final class Conversion
{
    public function __construct(public readonly Field $from, public readonly Field $to)
    {
    }

    /** Whether values may be lost: another type, another register to refer to, options that are no longer there. */
    public function isNeeded(): bool
    {
        return ! $this->to->isComputed() && ($this->from->behavesAs() !== $this->to->behavesAs() || $this->from->to !== $this->to->to || array_diff_key($this->from->options, $this->to->options) !== []);
    }

    /**
     * The stored value under the new definition: as it is between types of one kind, else by what it says in words.
     *
     * @throws Misfit
     */
    public function value(mixed $stored, Viewer $viewer): mixed
    {
        if ($this->isAkin()) {
            return $this->fitting($stored, $viewer);
        }
        $words = trim($this->from->kind->words($stored, $this->from, $viewer));
        if ($this->from->behavesAs() === FieldType::DateTime && $this->to->behavesAs() === FieldType::Date) {
            $words = substr($words, 0, 10);
        }
        if ($words === '') {
            throw new Misfit('it says nothing in words.');
        }
        $list = is_array($stored) && ! $this->to->behavesAs()->isList();
        if ($list && count($stored) > 1 && ! in_array($this->to->behavesAs(), [FieldType::Text, FieldType::LongText, FieldType::RichText], true)) {
            throw new Misfit(sprintf('it holds %d values.', count($stored)));
        }

        return $this->fitting($this->to->kind->read($words, $this->to, $viewer), $viewer);
    }

    /** Whether a stored value means the same under both types. */
    private function isAkin(): bool
    {
        $both = [$this->from->behavesAs(), $this->to->behavesAs()];
        foreach ([[FieldType::Text, FieldType::LongText], [FieldType::Number, FieldType::Percent], [FieldType::Choice, FieldType::Choices, FieldType::TwoStepChoice], [FieldType::Person, FieldType::People], [FieldType::Reference, FieldType::References]] as $family) {
            if (in_array($both[0], $family, true) && in_array($both[1], $family, true)) {
                return ! ($both[0]->isList() && ! $both[1]->isList());
            }
        }

        return $both[0] === $both[1];
    }

    private function fitting(mixed $value, Viewer $viewer): mixed
    {
        $fitting = $this->to->kind->fit($value, $this->to, $viewer, byRule: true);

        return Record::isEmpty($fitting) ? throw new Misfit('nothing of it is left.') : $fitting;
    }
}
