<?php

declare(strict_types=1);

namespace Sorvel\Core\Rule;

use Brick\Math\BigDecimal;
use Sorvel\Core\Feel\Number;
use Sorvel\Core\Feel\Values;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\Viewer;

/** `{set: FIELD, when: …}`: null empties only with `always`; options are ordered as listed, lowest first. */
final class SetChange extends FieldChange
{
    public function __construct(string $field, public readonly When $when, ?string $of = null)
    {
        parent::__construct($field, $of);
    }

    public function kind(): string
    {
        return 'set';
    }

    public function propose(mixed $cell, mixed $current, Field $field, Viewer $viewer, \Closure $past): Proposal
    {
        if (Record::isEmpty($cell)) {
            return $this->when === When::Always ? Proposal::become(null) : Proposal::keep('no value');
        }
        if ($this->when === When::Empty && ! Record::isEmpty($current)) {
            return Proposal::keep('has a value: kept');
        }
        $value = $field->kind->fit($cell, $field, $viewer, byRule: true);
        if (Record::isEmpty($current) || $this->when === When::Always || $this->when === When::Empty) {
            return Proposal::become($value);
        }
        $order = $this->order($value, $current, $field, $viewer);
        if ($this->when === When::Higher) {
            return $order > 0 ? Proposal::become($value) : Proposal::keep('not higher: kept');
        }

        return $order < 0 ? Proposal::become($value) : Proposal::keep('not lower: kept');
    }

    private function order(mixed $a, mixed $b, Field $field, Viewer $viewer): int
    {
        if ($field->type->hasOrder() && ! $field->isPlain) {
            [$one, $other] = [$field->kind->seen($a, $field, $viewer, ''), $field->kind->seen($b, $field, $viewer, '')];
            $higher = Values::ordered('>', $one, $other) ?? throw new Misfit('the two durations have no order: one is in months, the other in days.');

            return $higher ? 1 : (Values::ordered('<', $one, $other) === true ? -1 : 0);
        }
        if ((is_int($a) || $a instanceof BigDecimal) && (is_int($b) || $b instanceof BigDecimal)) {
            return Number::compare($a, $b);
        }
        $place = fn (mixed $key): int => (int) array_search($key, array_keys($field->options), true);

        return $place($a) <=> $place($b);
    }
}
