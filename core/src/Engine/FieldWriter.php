<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

use Sorvel\Core\Guard\Guards;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Viewer;
use Sorvel\Core\Rule\FieldChange;

/** Makes what a rule wants of a field, where it fits: types, options, moves, bounds and limited choices hold for rules too. */
final class FieldWriter
{
    public function __construct(private readonly RecordType $type, private readonly EventScope $scope, private readonly Viewer $viewer, private readonly Guards $guards)
    {
    }

    /** @param  \Closure(): mixed  $past  the cell's value for the record before the event */
    public function write(FieldChange $change, mixed $cell, \Closure $past): Written
    {
        $field = $this->type->fields[$change->field];
        $before = $this->scope->values[$field->key] ?? null;
        $turns = [];
        $why = '';
        try {
            $proposal = $change->propose($cell, $before, $field, $this->viewer, $past);
            $why = $proposal->why;
            if ($proposal->keeps) {
                return new Written($field, $before, $before, $why, null, []);
            }
            $after = Record::isEmpty($proposal->value) ? null : $proposal->value;
            $field->key === 'state' && $this->allow($before, $after);
            $guard = $this->guards->against($field, $after, $this->scope);
            if ($guard !== null) {
                throw new Misfit($guard->reason ?? 'this is not one of the choices that remain.');
            }
            if (Record::same($before, $after)) {
                return new Written($field, $before, $before, 'already so', null, []);
            }
            $this->scope->put($field->key, $after);

            return new Written($field, $before, $after, $why, null, $proposal->turns, true);
        } catch (Misfit $misfit) {
            return new Written($field, $before, $before, $why, sprintf('%s was not set: %s', $field->label, $misfit->getMessage()), []);
        }
    }

    /** @throws Misfit */
    private function allow(mixed $before, mixed $after): void
    {
        if ($this->type->states === []) {
            return;
        }
        if (! is_string($after)) {
            throw new Misfit('a ticket always has a state.');
        }
        if (is_string($before) && ! $this->type->allowsMove($before, $after)) {
            throw new Misfit(sprintf('there is no move from "%s" to "%s".', $this->type->states[$before]->label, $this->type->states[$after]->label));
        }
    }
}
