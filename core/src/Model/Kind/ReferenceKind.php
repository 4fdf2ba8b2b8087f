<?php

declare(strict_types=1);

namespace Sorvel\Core\Model\Kind;

use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\RecordView;
use Sorvel\Core\Model\Viewer;

final class ReferenceKind implements FieldKind
{
    public function fit(mixed $value, Field $field, Viewer $viewer, bool $byRule): string
    {
        $id = $value instanceof RecordView ? $value->identity() : $value;
        if (! is_string($id)) {
            throw new Misfit('it must be the id of a record.');
        }
        $record = $viewer->store->find($id);
        if ($record === null || $record->type !== $field->to) {
            throw new Misfit(sprintf('there is no %s "%s".', $viewer->rulebook->types[(string) $field->to]->title, mb_strimwidth($id, 0, 60, '…')));
        }

        return $id;
    }

    public function seen(mixed $stored, Field $field, Viewer $viewer, string $path): mixed
    {
        $record = is_string($stored) ? $viewer->store->find($stored) : null;

        return $record === null ? null : new RecordView($record, $viewer, $path);
    }

    /** Its name with its id: Alder Tern (V-01). */
    public function words(mixed $stored, Field $field, Viewer $viewer): string
    {
        $record = is_string($stored) ? $viewer->store->find($stored) : null;
        $name = $record === null ? null : $viewer->rulebook->types[$record->type]->nameOf($record);

        return is_string($stored) && $name !== null && $name !== $stored ? sprintf('%s (%s)', $name, $stored) : (is_string($stored) ? $stored : '');
    }

    /** By id, by name with id, or by a name that only one record has. */
    public function read(string $words, Field $field, Viewer $viewer): string
    {
        $id = preg_match('~\(([A-Za-z0-9][A-Za-z0-9_-]{0,39})\)$~', $words, $match) === 1 ? $match[1] : $words;
        foreach (array_unique([$words, $id]) as $candidate) {
            if ($viewer->store->find($candidate)?->type === $field->to) {
                return $candidate;
            }
        }
        $found = $viewer->store->named($viewer->rulebook->types[(string) $field->to], $words);
        $title = $viewer->rulebook->types[(string) $field->to]->title;

        return match (count($found)) {
            1 => $found[0],
            0 => throw new Misfit(sprintf('there is no %s "%s".', mb_strtolower($title), mb_strimwidth($words, 0, 60, '…'))),
            default => throw new Misfit(sprintf('more than one %s is called "%s"; give the id: %s …', mb_strtolower($title), mb_strimwidth($words, 0, 60, '…'), implode(', ', array_slice($found, 0, 3)))),
        };
    }
}
