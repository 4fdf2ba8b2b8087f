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
}
