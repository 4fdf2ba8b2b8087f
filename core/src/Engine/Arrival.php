<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

use Sorvel\Core\Feel\Warnings;
use Sorvel\Core\Format\Nearest;
use Sorvel\Core\Guard\Effect;
use Sorvel\Core\Guard\Guard;
use Sorvel\Core\Guard\Guards;
use Sorvel\Core\Guard\ParentChange;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\FieldType;
use Sorvel\Core\Model\Kind\DateTimeKind;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Role;
use Sorvel\Core\Model\Seen;
use Sorvel\Core\Model\Viewer;
use Sorvel\Core\Rule\Question;
use Sorvel\Core\Tally\Tallies;

/** Incoming values, held to types, bounds and moves before any rule looks (1 and 2 of "One event"). */
final class Arrival
{
    /** @var list<array{field: string, reason: string}> */
    private array $refused = [];

    /** @var array<string, true> keys of guards that turned something down or emptied a field */
    public array $tripped = [];

    /** What the person is; null for the desk itself, which may do everything. */
    private readonly ?Role $role;

    public function __construct(
        private readonly Event $event,
        private readonly RecordType $type,
        private readonly ?Record $before,
        private readonly Viewer $viewer,
        private readonly Guards $guards,
    ) {
        $this->role = $event->by === null ? null : $event->role ?? $viewer->rulebook->people[$event->by]->role ?? Role::Agent;
    }

    /** @return array{Record, list<array{field: string, reason: string}>, list<array{rule: string|null, field: string|null, message: string}>} */
    public function take(): array
    {
        $record = $this->before ?? new Record($this->event->id, $this->type->key, []);
        $values = $record->values;
        foreach ($this->event->values as $key => $value) {
            $field = $this->type->fields[$key] ?? null;
            if ($field === null) {
                $near = Nearest::to((string) $key, array_map(strval(...), array_keys($this->type->fields)));
                $this->refuse((string) $key, sprintf('%s has no field "%s"%s', $this->type->title, $key, $near === null ? '.' : '; did you mean "'.$near.'"?'));
            } else {
                $this->incoming($values, $field, $value);
            }
        }
        $record = new Record($record->id, $record->type, $values);
        if ($this->event->kind === EventKind::ByHand) {
            $this->byHand();
        }
        $record = $this->guarded($record);
        foreach ($this->event->taken as $key => $value) {
            $record = $record->with($key, $value);
        }
        if ($this->before !== null) {
            return [$record, $this->refused, []];
        }

        return $this->asNew($record);
    }

    /** Whether nothing but values comes in, from somebody who may set what they like. */
    public function isCommon(): bool
    {
        return ($this->event->kind === EventKind::Created || $this->event->kind === EventKind::Changed) && $this->event->taken === [] && $this->event->orders === [] && $this->role !== Role::Requester;
    }

    /** A rule that a person starts: that they may, and what they answer. */
    private function byHand(): void
    {
        foreach (array_keys($this->event->due) as $key) {
            $rule = $this->viewer->rulebook->rules[$key] ?? null;
            $start = $rule?->byHand();
            if ($rule === null || $start === null || ! in_array($this->type->key, $rule->on, true)) {
                $this->refuse('', sprintf('There is no rule "%s" that can be started by hand here.', mb_strimwidth((string) $key, 0, 60, '…')));

                continue;
            }
            $role = $this->role;
            if (! $rule->enabled) {
                $this->refuse('', sprintf('"%s" is switched off.', $rule->title));
            } elseif ($role !== null && ! $role->reaches($start->needs())) {
                $this->refuse('', sprintf('"%s" can be started by the role %s.', $rule->title, $start->needs()->value));
            }
            $inputs = is_array($this->event->data['inputs'] ?? null) ? $this->event->data['inputs'] : [];
            foreach (array_diff(array_map(strval(...), array_keys($inputs)), array_map(fn (Question $q): string => $q->field->key, $start->questions)) as $unknown) {
                $this->refuse($unknown, sprintf('"%s" is not asked.', mb_strimwidth($unknown, 0, 60, '…')));
            }
            foreach ($start->questions as $question) {
                $field = $question->field;
                $value = $inputs[$field->key] ?? null;
                if (Record::isEmpty($value)) {
                    $field->required && $this->refuse($field->key, sprintf('%s must be answered.', $field->label));

                    continue;
                }
                try {
                    $field->kind->fit($value, $field, $this->viewer, byRule: false);
                } catch (Misfit $misfit) {
                    $this->refuse($field->key, $field->label.': '.$misfit->getMessage());
                }
            }
        }
    }

    /** Incoming changes held to guards: those in force before it, and limited choices as they are with it. */
    private function guarded(Record $record): Record
    {
        if ($this->guards->isEmpty()) {
            return $record;
        }
        $old = $this->before->values ?? [];
        $now = $found = null;
        foreach ([Effect::ReadOnly, Effect::Hidden] as $effect) {
            foreach ($this->guards->of($effect) as $guard) {
                if (! Record::same($old[$guard->field] ?? null, $record->values[$guard->field] ?? null) && $this->guards->isInForce($guard, $found ??= $this->scopeOf($this->before ?? $record))) {
                    $this->trip($guard);
                }
            }
        }
        foreach ($this->viewer->rulebook->course($this->type->key)->limited as $field) {
            $value = $record->values[$field->key] ?? null;
            $guard = $value === null || Record::same($old[$field->key] ?? null, $value) ? null : $this->guards->against($field, $value, $now ??= $this->scopeOf($record));
            if ($guard !== null) {
                $this->trip($guard);
            }
        }
        foreach ($this->guards->of(Effect::Choices) as $limiting) {
            $field = $this->type->fields[$limiting->field];
            $value = $record->values[$field->key] ?? null;
            $guard = $value === null || ! Record::same($old[$field->key] ?? null, $value) ? null : $this->guards->against($field, $value, $now ??= $this->scopeOf($record));
            if ($guard?->onParentChange === ParentChange::Refuse) {
                $this->trip($guard);
            } elseif ($guard?->onParentChange === ParentChange::Clear) {
                $record = $record->with($field->key, null);
                $this->tripped[$guard->key] = true;
            }
        }

        return $record;
    }

    private function trip(Guard $guard): void
    {
        $this->tripped[$guard->key] = true;
        $this->refuse($guard->field, $guard->say($this->type->fields[$guard->field]));
    }

    private function scopeOf(Record $record): EventScope
    {
        return new EventScope($this->event, $this->type, $this->before, $record, $this->viewer);
    }

    /** @return list<array{field: string, reason: string}> required fields that the settled record leaves empty, or that the event emptied */
    public function missing(Record $settled): array
    {
        $missing = [];
        foreach ($this->type->required as $field) {
            $needed = $this->before === null || $this->before->value($field->key) !== null;
            if ($needed && $settled->value($field->key) === null) {
                $missing[] = ['field' => $field->key, 'reason' => sprintf('%s must not be empty.', $field->label)];
            }
        }

        $scope = null;
        foreach ($this->guards->of(Effect::Required) as $guard) {
            if ($settled->value($guard->field) === null && $this->guards->isInForce($guard, $scope ??= $this->scopeOf($settled)) && ! in_array($guard->field, array_column($missing, 'field'), true)) {
                $this->tripped[$guard->key] = true;
                $missing[] = ['field' => $guard->field, 'reason' => $guard->say($this->type->fields[$guard->field])];
            }
        }

        return $missing;
    }

    /** @param  array<string, mixed>  $values  of the record so far */
    private function incoming(array &$values, Field $field, mixed $value): void
    {
        $old = $values[$field->key] ?? null;
        if ($field->fixed) {
            $this->refuse($field->key, sprintf($field->isComputed() ? '%s follows from other fields and cannot be set.' : '%s is kept by the desk itself and cannot be set.', $field->label));

            return;
        }
        $role = $this->role;
        if ($role === Role::Requester && $field->requester !== Seen::Shown && $field->key !== 'state' && ! ($field->key === 'requester' && $value === $this->event->by) && ! Record::same($old, $value)) {
            $this->refuse($field->key, sprintf('%s is set by the desk, not by requesters.', $field->label));

            return;
        }
        if (! $field->active && ! Record::isEmpty($value) && ! Record::same($old, $value)) {
            $this->refuse($field->key, sprintf('%s is retired and takes no new values.', $field->label));

            return;
        }
        if (Record::isEmpty($value)) {
            if ($field->key === 'state' && $this->type->isTicket && $this->before !== null) {
                $this->refuse('state', 'A ticket always has a state.');
            }

            unset($values[$field->key]);

            return;
        }
        $bound = $this->viewer->rulebook->course($this->type->key)->bound[$field->key] ?? null;
        if ($bound !== null && ! Record::same($old, $value)) {
            $this->refuse($field->key, sprintf('%s is kept equal to %s and cannot be set.', $field->label, $bound->from->source));

            return;
        }
        if (is_array($value) ? $value === $old : $value === Record::plain($old)) {
            return;
        }
        try {
            $fitting = $field->kind->fit($value, $field, $this->viewer, byRule: false);
        } catch (Misfit $misfit) {
            $this->refuse($field->key, $field->label.': '.$misfit->getMessage());

            return;
        }
        if (! $this->type->isTicket && $field->type === FieldType::Reference && $field->to === $this->type->key && is_string($fitting) && $this->isBelow($fitting, $field->key)) {
            $this->refuse($field->key, sprintf('%s: %s lies below this record already; a tree has no circles.', $field->label, $fitting));
        }
        if ($field->key === 'state' && is_string($fitting)) {
            $this->move(is_string($old) ? $old : null, $fitting, $role);
        }

        if (Record::isEmpty($fitting)) {
            unset($values[$field->key]);
        } else {
            $values[$field->key] = $fitting;
        }
    }

    /** Whether the record is met on the way up from another. */
    private function isBelow(string $id, string $tree): bool
    {
        $seen = [];
        for ($at = $id; is_string($at) && ! isset($seen[$at]); $at = $this->viewer->store->find($at)?->value($tree)) {
            if ($at === $this->event->id) {
                return true;
            }
            $seen[$at] = true;
        }

        return false;
    }

    private function move(?string $from, string $to, ?Role $role): void
    {
        if ($from === null) {
            if ($role === Role::Requester && $to !== $this->type->firstState()) {
                $this->refuse('state', sprintf('State: what requesters ask for begins as "%s".', $this->type->states[(string) $this->type->firstState()]->label));
            }

            return;
        }
        $needed = $this->type->moveNeeds($from, $to);
        $labels = [$this->type->states[$from]->label, $this->type->states[$to]->label];
        if ($needed === null) {
            $this->refuse('state', sprintf('State: there is no move from "%s" to "%s".', ...$labels));
        } elseif ($role !== null && ! $role->reaches($needed)) {
            $this->refuse('state', sprintf('State: the move from "%s" to "%s" needs the role %s.', ...[...$labels, $needed->value]));
        }
    }

    /** @return array{Record, list<array{field: string, reason: string}>, list<array{rule: string|null, field: string|null, message: string}>} */
    private function asNew(Record $record): array
    {
        $problems = [];
        if ($this->type->isTicket) {
            $at = (new DateTimeKind)->fit($this->event->at, $this->type->fields['created_at'], $this->viewer, byRule: true);
            $values = $record->values;
            $values['number'] = $record->id;
            unset($values['created_by']);
            if ($this->event->by !== null) {
                $values['created_by'] = $this->event->by;
            }
            $values['created_at'] = $at;
            $values['changed_at'] = $at;
            if ($this->role === Role::Requester) {
                $values['requester'] = $this->event->by;
            }
            if (! isset($values['state']) && $this->type->firstState() !== null) {
                $values['state'] = $this->type->firstState();
            }
            $record = new Record($record->id, $record->type, $values);
        }
        foreach ($this->type->begun as $field) {
            if ($field->tally !== null) {
                foreach (Tallies::begun($field) as $key => $value) {
                    $record = $record->with($key, $value);
                }
            }
            if ($field->default === null || $record->value($field->key) !== null) {
                continue;
            }
            $value = $field->default->value($this->scopeOf($record), new Warnings);
            try {
                $record = Record::isEmpty($value) ? $record : $record->with($field->key, $field->kind->fit($value, $field, $this->viewer, byRule: true));
            } catch (Misfit $misfit) {
                $problems[] = ['rule' => null, 'field' => $field->key, 'message' => sprintf('The default of %s does not fit: %s', $field->label, $misfit->getMessage())];
            }
        }

        return [$record, $this->refused, $problems];
    }

    private function refuse(string $field, string $reason): void
    {
        $this->refused[] = ['field' => $field, 'reason' => $reason];
    }
}
