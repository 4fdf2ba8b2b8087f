<?php

declare(strict_types=1);

namespace Sorvel\Core\Model\Kind;

use Sorvel\Core\Format\Nearest;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Person;
use Sorvel\Core\Model\PersonView;
use Sorvel\Core\Model\Viewer;

final class PersonKind implements FieldKind
{
    public function fit(mixed $value, Field $field, Viewer $viewer, bool $byRule): string
    {
        $key = $value instanceof PersonView ? $value->identity() : $value;
        if (! is_string($key)) {
            throw new Misfit('it must be a person.');
        }
        $person = $viewer->rulebook->people[$key] ?? null;
        if ($person === null) {
            $near = Nearest::to($key, array_map(strval(...), array_keys($viewer->rulebook->people)));
            throw new Misfit(sprintf('there is no person "%s"%s', mb_strimwidth($key, 0, 60, '…'), $near === null ? '.' : '; did you mean "'.$near.'"?'));
        }
        if (! $person->active) {
            throw new Misfit(sprintf('%s is no longer active.', $person->name));
        }

        return $key;
    }

    public function seen(mixed $stored, Field $field, Viewer $viewer, string $path): mixed
    {
        $person = is_string($stored) ? $viewer->rulebook->people[$stored] ?? null : null;

        return $person === null ? null : new PersonView($person, $viewer);
    }

    public function words(mixed $stored, Field $field, Viewer $viewer): string
    {
        return is_string($stored) ? $viewer->rulebook->people[$stored]->name ?? $stored : '';
    }

    /** By key, address or name. */
    public function read(string $words, Field $field, Viewer $viewer): string
    {
        $people = $viewer->rulebook->people;
        if (isset($people[$words])) {
            return $words;
        }
        $lower = mb_strtolower($words);
        $found = array_filter($people, fn (Person $p): bool => $lower === mb_strtolower((string) $p->email) || $lower === mb_strtolower($p->name));
        if (count($found) > 1) {
            throw new Misfit(sprintf('several people are called "%s"; give the key: %s.', mb_strimwidth($words, 0, 60, '…'), implode(', ', array_keys($found))));
        }

        return (string) (array_key_first($found) ?? throw new Misfit(sprintf('there is no person "%s".', mb_strimwidth($words, 0, 60, '…'))));
    }
}
