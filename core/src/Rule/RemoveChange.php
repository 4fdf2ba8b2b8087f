<?php

declare(strict_types=1);

namespace Sorvel\Core\Rule;

use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\Viewer;

/** `{remove: FIELD}`: a value or a list leaves the list; null does nothing. */
final class RemoveChange extends FieldChange
{
    public function kind(): string
    {
        return 'remove';
    }

    public function propose(mixed $cell, mixed $current, Field $field, Viewer $viewer, \Closure $past): Proposal
    {
        $going = array_map(self::key(...), array_values(array_filter(is_array($cell) ? $cell : [$cell], fn (mixed $v): bool => ! Record::isEmpty($v))));
        if ($going === []) {
            return Proposal::keep('no value');
        }
        $current = is_array($current) ? array_values($current) : [];
        // what is no longer an option, or no longer there, can be taken away all the same
        $left = array_values(array_filter($current, fn (mixed $one): bool => ! in_array($one, $going, true)));

        return count($left) === count($current) ? Proposal::keep('not in it') : Proposal::become($left === [] ? null : $left);
    }

    private static function key(mixed $value): mixed
    {
        return $value instanceof \Sorvel\Core\Feel\Context ? $value->identity() : $value;
    }
}
