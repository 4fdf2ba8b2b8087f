<?php

declare(strict_types=1);

namespace Sorvel\Core\Rule;

use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\Viewer;

/** `{add: FIELD}`: a value or a list joins what is in the list; nothing is ever dropped; null does nothing. */
final class AddChange extends FieldChange
{
    public function kind(): string
    {
        return 'add';
    }

    public function propose(mixed $cell, mixed $current, Field $field, Viewer $viewer, \Closure $past): Proposal
    {
        $new = array_values(array_filter(is_array($cell) ? $cell : [$cell], fn (mixed $v): bool => ! Record::isEmpty($v)));
        if ($new === []) {
            return Proposal::keep('no value');
        }
        $current = is_array($current) ? $current : [];
        $added = $field->kind->fit($new, $field, $viewer, byRule: true);
        $missing = is_array($added) ? array_values(array_diff($added, $current)) : [];

        return $missing === [] ? Proposal::keep('already in it') : Proposal::become($field->kind->fit([...$current, ...$missing], $field, $viewer, byRule: true));
    }
}
