<?php

declare(strict_types=1);

namespace Sorvel\Core\Rule;

use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Viewer;

/** `{clear: FIELD}`: its cell is yes or no. */
final class ClearChange extends FieldChange
{
    public function kind(): string
    {
        return 'clear';
    }

    public function propose(mixed $cell, mixed $current, Field $field, Viewer $viewer, \Closure $past): Proposal
    {
        return match ($cell) {
            true => Proposal::become(null),
            false, null => Proposal::keep('not to be cleared'),
            default => throw new Misfit('a clear cell must come to yes or no.'),
        };
    }
}
