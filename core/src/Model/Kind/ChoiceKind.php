<?php

declare(strict_types=1);

namespace Sorvel\Core\Model\Kind;

use Sorvel\Core\Format\Nearest;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Viewer;

final class ChoiceKind implements FieldKind
{
    public function fit(mixed $value, Field $field, Viewer $viewer, bool $byRule): string
    {
        if (! is_string($value)) {
            throw new Misfit('it must be the key of an option.');
        }
        $option = $field->options[$value] ?? null;
        if ($option === null) {
            $near = Nearest::to($value, array_map(strval(...), array_keys($field->options)));
            throw new Misfit(sprintf('"%s" is not an option%s', mb_strimwidth($value, 0, 60, '…'), $near === null ? '; options are: '.implode(', ', array_keys($field->options)).'.' : '; did you mean "'.$near.'"?'));
        }
        if (! $option->active) {
            throw new Misfit(sprintf('the option "%s" is no longer in use.', $option->label));
        }

        return $value;
    }

    public function seen(mixed $stored, Field $field, Viewer $viewer, string $path): mixed
    {
        return $stored;
    }
}
