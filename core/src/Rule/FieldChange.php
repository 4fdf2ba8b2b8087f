<?php

declare(strict_types=1);

namespace Sorvel\Core\Rule;

use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Viewer;

/** Changes a field: of the record that the rule runs on, at once; or of what a look-up holds, once the record has settled. */
abstract class FieldChange implements ChangeColumn
{
    /**
     * @param  string  $field  the key of the field it changes
     * @param  string|null  $of  the look-up that holds the records it changes; null for the record itself
     */
    public function __construct(public readonly string $field, public readonly ?string $of = null)
    {
    }

    /**
     * What the field becomes.
     *
     * @param  mixed  $cell  the value of the cell's formula
     * @param  mixed  $current  the stored value now
     * @param  \Closure(): mixed  $past  the cell's value for the record before the event; null where there was none
     *
     * @throws Misfit when the value does not fit the field
     */
    abstract public function propose(mixed $cell, mixed $current, Field $field, Viewer $viewer, \Closure $past): Proposal;
}
