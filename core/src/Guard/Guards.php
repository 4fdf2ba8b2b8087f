<?php

declare(strict_types=1);

namespace Sorvel\Core\Guard;

use Sorvel\Core\Feel\Context;
use Sorvel\Core\Feel\Scope;
use Sorvel\Core\Feel\Warnings;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\OptionView;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordView;
use Sorvel\Core\Model\Viewer;

/** The guards of one type, asked about one record at a time. */
final class Guards
{
    /** @var array<string, list<Guard>> by effect */
    private array $byEffect = [];

    /** @param  list<Guard>  $guards  in order */
    public function __construct(array $guards, private readonly Viewer $viewer)
    {
        foreach ($guards as $guard) {
            $this->byEffect[$guard->effect->value][] = $guard;
        }
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
            foreach ($this->byEffect[$effect->value] ?? [] as $guard) {
                if ($guard->when === null || $guard->when->value($scope, new Warnings) === true) {
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
        foreach ($this->byEffect[Effect::Choices->value] ?? [] as $guard) {
            if ($guard->field === $field->key && $guard->only !== null && ($guard->when === null || $guard->when->value($scope, new Warnings) === true) && ! $this->fits($guard, $field, $value, $scope)) {
                return $guard;
            }
        }

        return null;
    }

    public function limits(string $field): bool
    {
        foreach ($this->byEffect[Effect::Choices->value] ?? [] as $guard) {
            if ($guard->field === $field) {
                return true;
            }
        }

        return false;
    }

    /** @return list<Guard> every guard that limits choices */
    public function limiting(): array
    {
        return $this->byEffect[Effect::Choices->value] ?? [];
    }

    private function fits(Guard $guard, Field $field, mixed $value, Scope $scope): bool
    {
        foreach (is_array($value) ? $value : [$value] as $one) {
            $candidate = $this->candidate($field, $one);
            if ($candidate === null || $guard->only?->value(new Candidate($candidate, $scope), new Warnings) !== true) {
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
