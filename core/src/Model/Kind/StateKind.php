<?php

declare(strict_types=1);

namespace Sorvel\Core\Model\Kind;

use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Viewer;

/** A state by key; whether the move is allowed is judged where the state before is known. */
final class StateKind implements FieldKind
{
    public function fit(mixed $value, Field $field, Viewer $viewer, bool $byRule): string
    {
        if (! is_string($value) || ! isset($field->options[$value])) {
            throw new Misfit(sprintf('%s is not a state; states are: %s.', is_string($value) ? '"'.mb_strimwidth($value, 0, 60, '…').'"' : 'it', implode(', ', array_keys($field->options))));
        }

        return $value;
    }

    public function seen(mixed $stored, Field $field, Viewer $viewer, string $path): mixed
    {
        return $stored;
    }

    public function words(mixed $stored, Field $field, Viewer $viewer): string
    {
        return (new ChoiceKind)->words($stored, $field, $viewer);
    }

    public function read(string $words, Field $field, Viewer $viewer): string
    {
        return (new ChoiceKind)->read($words, $field, $viewer);
    }
}
