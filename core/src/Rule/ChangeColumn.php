<?php

declare(strict_types=1);

namespace Sorvel\Core\Rule;

use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Viewer;

/** A change column of a grid. One file a kind, made by {@see \Sorvel\Core\Format\RuleBuilder}. */
interface ChangeColumn
{
    /** The word that the format uses: set, add, clear. */
    public function kind(): string;

    /** The key of the field it changes. */
    public function field(): string;

    /**
     * What the field becomes.
     *
     * @param  mixed  $cell  the value of the cell's formula
     * @param  mixed  $current  the stored value now
     *
     * @throws Misfit when the value does not fit the field
     */
    public function propose(mixed $cell, mixed $current, Field $field, Viewer $viewer): Proposal;
}
