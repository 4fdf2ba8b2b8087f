<?php

declare(strict_types=1);

namespace Sorvel\Core\Model\Kind;

use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\OptionView;
use Sorvel\Core\Model\Viewer;

/** A choice in two steps, stored as the key of the second; of the first where it has none below it. */
final class TwoStepChoiceKind implements FieldKind
{
    public function fit(mixed $value, Field $field, Viewer $viewer, bool $byRule): string
    {
        $key = (new ChoiceKind)->fit($value instanceof OptionView ? $value->identity() : $value, $field, $viewer, $byRule);
        $parent = $field->options[$key]->parent;
        if ($parent !== null && ! $field->options[$parent]->active) {
            throw new Misfit(sprintf('the option "%s" is no longer in use.', $field->options[$parent]->label));
        }
        foreach ($field->options as $option) {
            if ($option->parent === $key) {
                throw new Misfit(sprintf('"%s" is the first step; choose one of those below it, such as "%s".', $key, $option->key));
            }
        }

        return $key;
    }

    public function seen(mixed $stored, Field $field, Viewer $viewer, string $path): mixed
    {
        $option = is_string($stored) ? $field->options[$stored] ?? null : null;

        return $option === null ? null : new OptionView($option, $option->parent === null ? null : $field->options[$option->parent] ?? null);
    }

    public function words(mixed $stored, Field $field, Viewer $viewer): string
    {
        $option = is_string($stored) ? $field->options[$stored] ?? null : null;
        $parent = $option?->parent === null ? null : $field->options[$option->parent] ?? null;

        return ($parent === null ? '' : $parent->label.' / ').($option->label ?? '');
    }

    /** "Car deck / Bow door", or the second step alone, by key or by label. */
    public function read(string $words, Field $field, Viewer $viewer): string
    {
        foreach ($field->options as $key => $option) {
            if (mb_strtolower($this->words($key, $field, $viewer)) === mb_strtolower($words)) {
                return (string) $key;
            }
        }

        return (new ChoiceKind)->read($words, $field, $viewer);
    }
}
