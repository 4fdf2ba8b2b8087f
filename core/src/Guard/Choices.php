<?php

declare(strict_types=1);

namespace Sorvel\Core\Guard;

use Sorvel\Core\Engine\Event;
use Sorvel\Core\Engine\EventScope;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordStore;
use Sorvel\Core\Model\Rulebook;
use Sorvel\Core\Model\Viewer;

/** What remains to choose from in a field while a record is being filled in. */
final class Choices
{
    private readonly Viewer $viewer;

    private readonly Guards $guards;

    private readonly EventScope $scope;

    public function __construct(private readonly Rulebook $rulebook, RecordStore $store, private readonly Event $event)
    {
        $this->viewer = new Viewer($rulebook, $store);
        $type = $rulebook->types[$event->type];
        $this->guards = new Guards($rulebook->guardsByEffect($type->key), $this->viewer);
        $before = $store->find($event->id);
        $record = $before ?? new Record($event->id, $type->key, []);
        foreach ($event->values as $key => $value) {
            $field = $type->fields[$key] ?? null;
            try {
                // what does not fit yet is told elsewhere; it limits nothing
                $record = $field === null ? $record : $record->with($key, Record::isEmpty($value) ? null : $field->kind->fit($value, $field, $this->viewer, byRule: false));
            } catch (Misfit) {
                continue;
            }
        }
        $this->scope = new EventScope($event, $type, $before, $record, $this->viewer);
    }

    /**
     * @param  list<string>  $candidates  option keys, or ids of records
     * @return list<string> those that may be chosen, in the same order
     */
    public function among(string $field, array $candidates): array
    {
        $of = $this->rulebook->types[$this->event->type]->fields[$field];
        if (! $this->guards->limits($field)) {
            return $candidates;
        }

        return array_values(array_filter($candidates, fn (string $one): bool => $this->guards->against($of, $of->type->isList() ? [$one] : $one, $this->scope) === null));
    }
}
