<?php

declare(strict_types=1);

namespace Sorvel\Core\Mirror;

use Sorvel\Core\Engine\Begun;
use Sorvel\Core\Engine\EventScope;
use Sorvel\Core\Engine\Frame;
use Sorvel\Core\Feel\EvaluationStopped;
use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Feel\Warnings;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Viewer;

/** What follows from the other fields of a record at once: mirrors in order, and derived fields after those that they read. */
final class Following
{
    private const MOST_ROUNDS = 10;

    /** @var list<Mirror> */
    private readonly array $mirrors;

    /** @var array<string, mixed> what each mirror's source last was, stored form */
    private array $sources = [];

    /** @var array<string, true> the steps that something they read has changed for since they were last run */
    private array $pending;

    /** Nobody is told what went wrong on the way. */
    private readonly Warnings $warnings;

    /** @var array<string, true> mirrors that changed their field */
    private array $mirrored = [];

    /** @var list<array{rule: string|null, field: string|null, message: string}> */
    private array $problems = [];

    /**
     * @param  list<string>  $incoming  fields that came in, in order
     * @param  EventScope|null  $past  the record before the event, among the others as they were; null for a creation
     */
    public function __construct(
        private readonly RecordType $type,
        private readonly Course $course,
        private readonly EventScope $scope,
        ?EventScope $past,
        private readonly Viewer $viewer,
        array $incoming,
        private readonly Frame $frame = new Frame,
        ?Begun $begun = null,
    ) {
        $this->warnings = new Warnings;
        $mirrors = $course->mirrors;
        if ($course->isPaired) {
            // of two that keep each other equal, the source that was written later goes first
            $late = fn (Mirror $m): int => $m->isPaired ? (int) array_search($m->from->source, $incoming, true) : 0;
            usort($mirrors, fn (Mirror $a, Mirror $b): int => $late($b) <=> $late($a));
        }
        $this->mirrors = $mirrors;
        if ($begun !== null) {
            [$this->sources, $this->pending, $this->mirrored] = [$begun->sources, $begun->pending, $begun->mirrored];

            return;
        }
        $this->pending = $course->steps;
        foreach ($mirrors as $mirror) {
            $this->sources[$mirror->key] = $past === null || $mirror->isBound() ? null : $this->value($mirror->step, $mirror->from, $type->fields[$mirror->field], $past);
        }
    }

    /** A field has another value: what reads it has to look again. */
    public function changed(string $field): void
    {
        $this->pending += $this->course->after($field);
    }

    /** @return list<array{field: string, before: mixed, after: mixed, rule: string|null}> what changed, plain data, in order; other records stand still meanwhile */
    public function follow(): array
    {
        if ($this->pending === []) {
            return [];
        }
        $changes = [];
        for ($round = 0; $round < self::MOST_ROUNDS && $this->pending !== []; $round++) {
            foreach ($this->mirrors as $mirror) {
                if (isset($this->pending[$mirror->step])) {
                    unset($this->pending[$mirror->step]);
                    $change = $this->mirror($mirror);
                    if ($change !== null) {
                        $changes[] = $change;
                        $this->settle($mirror->step);
                    }
                }
            }
            foreach ($this->type->derived as $field) {
                if ($field->formula !== null && isset($this->pending[$field->key])) {
                    unset($this->pending[$field->key]);
                    $change = $this->set($field, $this->value($field->key, $field->formula, $field, $this->scope));
                    if ($change !== null) {
                        $changes[] = $change;
                        $this->settle($field->key);
                    }
                }
            }
        }
        $this->viewer->reads->take();

        return $changes;
    }

    /** A step has set its field, and has nothing to look at again for that. */
    private function settle(string $step): void
    {
        if (isset($this->course->settled[$step])) {
            unset($this->pending[$step]);
        }
    }

    /** @return list<string> keys of mirrors that changed their field */
    public function mirrored(): array
    {
        return array_map(strval(...), array_keys($this->mirrored));
    }

    /** @return list<array{rule: string|null, field: string|null, message: string}> */
    public function problems(): array
    {
        return $this->problems === [] ? [] : array_values(array_unique($this->problems, SORT_REGULAR));
    }

    /** @return array{field: string, before: mixed, after: mixed, rule: string|null}|null */
    private function mirror(Mirror $mirror): ?array
    {
        $field = $this->type->fields[$mirror->field];
        $source = $this->value($mirror->step, $mirror->from, $field, $this->scope);
        $moved = ! Record::same($source, $this->sources[$mirror->key]);
        $this->sources[$mirror->key] = $source;
        $follows = match (true) {
            $mirror->isBound() => true,
            $mirror->mode === Mode::FillEmpty => ! Record::isEmpty($source) && Record::isEmpty($this->scope->values[$field->key] ?? null),
            default => $moved,
        };

        $change = $follows ? $this->set($field, $source) : null;
        if ($change !== null) {
            $this->mirrored[$mirror->key] = true;
        }

        return $change;
    }

    /** @return array{field: string, before: mixed, after: mixed, rule: string|null}|null */
    private function set(Field $field, mixed $after): ?array
    {
        $before = $this->scope->values[$field->key] ?? null;
        if (Record::same($before, $after)) {
            return null;
        }
        $this->scope->put($field->key, $after);
        $this->changed($field->key);

        return ['field' => $field->key, 'before' => is_object($before) ? Record::plain($before) : $before, 'after' => is_object($after) ? Record::plain($after) : $after, 'rule' => null];
    }

    /** What a step comes to, stored form. */
    private function value(string $step, Formula $formula, Field $field, EventScope $scope): mixed
    {
        $compiled = $this->frame->steps[$step] ?? null;
        if ($compiled !== null) {
            try {
                return $compiled($scope, $scope, $this->warnings);
            } catch (EvaluationStopped) {
                // it takes more to know
            }
        }

        return $this->fitting($formula->value($scope, new Warnings), $field);
    }

    private function fitting(mixed $value, Field $field): mixed
    {
        try {
            return Record::isEmpty($value) ? null : $field->kind->fit($value, $field, $this->viewer, byRule: true);
        } catch (Misfit $misfit) {
            $this->problems[] = ['rule' => null, 'field' => $field->key, 'message' => sprintf('%s cannot follow: %s', $field->label, $misfit->getMessage())];

            return null;
        }
    }
}
