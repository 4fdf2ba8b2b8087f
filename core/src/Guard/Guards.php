<?php

declare(strict_types=1);

namespace Sorvel\Core\Guard;

use Sorvel\Core\Engine\EventScope;
use Sorvel\Core\Engine\Frame;
use Sorvel\Core\Feel\Context;
use Sorvel\Core\Feel\EvaluationStopped;
use Sorvel\Core\Feel\Scope;
use Sorvel\Core\Feel\Warnings;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\OptionView;
use Sorvel\Core\Model\RecordView;
use Sorvel\Core\Model\Viewer;

/** The guards of one type, asked about one record at a time. */
final class Guards
{
    /** @param  array<string, list<Guard>>  $byEffect  in order */
    public function __construct(private readonly array $byEffect, private readonly Viewer $viewer, private readonly Frame $frame = new Frame)
    {
    }

    /** @return list<Guard> with an effect, in force or not */
    public function of(Effect $effect): array
    {
        return $this->byEffect[$effect->value] ?? [];
    }

    public function isEmpty(): bool
    {
        return $this->byEffect === [];
    }

    /** @return list<Guard> with one of the effects, in force in a scope */
    public function inForce(Scope $scope, Effect ...$effects): array
    {
        $found = [];
        foreach ($effects as $effect) {
            foreach ($this->of($effect) as $guard) {
                if ($this->isInForce($guard, $scope)) {
                    $found[] = $guard;
                }
            }
        }

        return $found;
    }

    /** The first guard that does not let a field take a value; null when it may. */
    public function against(Field $field, mixed $value, Scope $scope): ?Guard
    {
        if ($value === null) {
            return null;
        }
        foreach ($this->of(Effect::Choices) as $guard) {
            if ($guard->field === $field->key && $guard->only !== null && $this->isInForce($guard, $scope) && ! $this->fits($guard, $field, $value, $scope)) {
                return $guard;
            }
        }

        return null;
    }

    public function limits(string $field): bool
    {
        foreach ($this->of(Effect::Choices) as $guard) {
            if ($guard->field === $field) {
                return true;
            }
        }

        return false;
    }

    /** Whether its condition holds; a guard without one always is. */
    public function isInForce(Guard $guard, Scope $scope): bool
    {
        if ($guard->when === null) {
            return true;
        }
        $compiled = $this->frame->when[$guard->key] ?? null;
        if ($compiled !== null && $scope instanceof EventScope) {
            try {
                return $compiled($scope, $scope, new Warnings);
            } catch (EvaluationStopped) {
                // it takes more to know
            }
        }

        return $guard->when->value($scope, new Warnings) === true;
    }

    private function remains(Guard $guard, Field $field, mixed $value, Scope $scope): bool
    {
        $compiled = $field->to === null ? null : $this->frame->only[$guard->key] ?? null;
        if ($compiled !== null && $scope instanceof EventScope && is_string($value)) {
            try {
                return $compiled($scope->meet($value, (string) $field->to), $scope, $scope, new Warnings);
            } catch (EvaluationStopped) {
                // it takes more to know
            }
        }
        $candidate = $this->candidate($field, $value);

        return $candidate !== null && $guard->only?->value(new Candidate($candidate, $scope), new Warnings) === true;
    }

    private function fits(Guard $guard, Field $field, mixed $value, Scope $scope): bool
    {
        foreach (is_array($value) ? $value : [$value] as $one) {
            if (! $this->remains($guard, $field, $one, $scope)) {
                return false;
            }
        }

        return true;
    }

    private function candidate(Field $field, mixed $value): ?Context
    {
        $key = is_string($value) ? $value : '';
        if ($field->to !== null) {
            $record = $this->viewer->store->find($key);

            return $record === null ? null : new RecordView($record, $this->viewer, $field->key.'.');
        }
        $option = $field->options[$key] ?? null;

        return $option === null ? null : new OptionView($option, $option->parent === null ? null : $field->options[$option->parent] ?? null);
    }
}
