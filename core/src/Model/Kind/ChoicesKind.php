<?php

declare(strict_types=1);

namespace Sorvel\Core\Model\Kind;

use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\Viewer;

/** Several options, each once, stored by key in the order in which the field lists them. */
final class ChoicesKind implements FieldKind
{
    public function fit(mixed $value, Field $field, Viewer $viewer, bool $byRule): mixed
    {
        $one = new ChoiceKind;
        $chosen = [];
        foreach (is_array($value) ? $value : [$value] as $key) {
            $chosen[$one->fit($key, $field, $viewer, $byRule)] = true;
        }

        return array_values(array_filter(array_map(strval(...), array_keys($field->options)), fn (string $key): bool => isset($chosen[$key])));
    }

    public function seen(mixed $stored, Field $field, Viewer $viewer, string $path): mixed
    {
        return $stored;
    }

    public function words(mixed $stored, Field $field, Viewer $viewer): string
    {
        return ListOf::joined(new ChoiceKind, $stored, $field, $viewer);
    }

    public function read(string $words, Field $field, Viewer $viewer): mixed
    {
        return ListOf::parted(new ChoiceKind, $words, $field, $viewer);
    }
}
