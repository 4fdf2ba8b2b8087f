<?php

declare(strict_types=1);

namespace Sorvel\Core\Rule;

use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Viewer;

/** `{clear: FIELD}`: its cell is yes or no. */
final class ClearChange implements ChangeColumn
{
    public function __construct(private readonly string $field)
    {
    }

    public function kind(): string
    {
        return 'clear';
    }

    public function field(): string
    {
        return $this->field;
    }

    public function propose(mixed $cell, mixed $current, Field $field, Viewer $viewer): Proposal
    {
        return match ($cell) {
            true => Proposal::become(null),
            false, null => Proposal::keep('not to be cleared'),
            default => throw new Misfit('a clear cell must come to yes or no.'),
        };
    }
}
