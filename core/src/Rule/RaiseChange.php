<?php

declare(strict_types=1);

namespace Sorvel\Core\Rule;

use Brick\Math\BigDecimal;
use Sorvel\Core\Feel\Number;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Viewer;

/** `{raise: FIELD}`: by a number, which may be negative; within the field's bounds; an empty field counts as 0; null does nothing. */
final class RaiseChange extends FieldChange
{
    public function kind(): string
    {
        return 'raise';
    }

    public function propose(mixed $cell, mixed $current, Field $field, Viewer $viewer, \Closure $past): Proposal
    {
        if ($cell === null) {
            return Proposal::keep('no value');
        }
        if (! is_int($cell) && ! $cell instanceof BigDecimal) {
            throw new Misfit('a raise must come to a number.');
        }
        $now = is_int($current) || $current instanceof BigDecimal ? $current : 0;
        $raised = Number::add($now, $cell);
        [$least, $most] = $field->bounds();
        $bounded = match (true) {
            $most !== null && Number::compare($raised, $most) > 0 => $most,
            $least !== null && Number::compare($raised, $least) < 0 => $least,
            default => $raised,
        };
        if ($current !== null && Number::compare($bounded, $now) === 0) {
            return Proposal::keep(Number::compare($raised, $bounded) === 0 ? 'raised by nothing' : 'at its bound');
        }

        return Proposal::become($field->kind->fit($bounded, $field, $viewer, byRule: true), Number::compare($raised, $bounded) === 0 ? '' : 'held at its bound');
    }
}
