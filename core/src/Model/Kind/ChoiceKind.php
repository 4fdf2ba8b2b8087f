<?php

declare(strict_types=1);

namespace Sorvel\Core\Model\Kind;

use Sorvel\Core\Format\Nearest;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Option;
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

    public function words(mixed $stored, Field $field, Viewer $viewer): string
    {
        return is_string($stored) ? $field->options[$stored]->label ?? $stored : '';
    }

    /** By key or by label. */
    public function read(string $words, Field $field, Viewer $viewer): string
    {
        if (isset($field->options[$words])) {
            return $words;
        }
        $found = array_filter($field->options, fn (Option $o): bool => mb_strtolower($o->label) === mb_strtolower($words));

        return match (count($found)) {
            1 => (string) array_key_first($found),
            0 => throw new Misfit(sprintf('"%s" is not an option; options are: %s.', mb_strimwidth($words, 0, 60, '…'), mb_strimwidth(implode(', ', array_map(fn (Option $o): string => $o->label, $field->options)), 0, 200, ' …'))),
            default => throw new Misfit(sprintf('several options are called "%s"; give the key: %s.', $words, implode(', ', array_keys($found)))),
        };
    }
}
