<?php

declare(strict_types=1);

namespace Sorvel\Core\Mirror;

use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Feel\Walk;
use Sorvel\Core\Guard\Effect;
use Sorvel\Core\Guard\Guard;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\RecordType;

/** What follows what within a record of one type: read off its formulas once, for every event. */
final class Course
{
    /** @var array<string, true> every step: a mirror as "mirror KEY", a derived field as its key */
    public readonly array $steps;

    /** @var array<string, array<string, true>> by field: the steps that a change of it may concern */
    private readonly array $after;

    /** @var array<string, true> steps that do not read the field that they set: once it is set, they need not look again for that */
    public readonly array $settled;

    /** Whether two mirrors keep each other equal. */
    public readonly bool $isPaired;

    /** @var array<string, Mirror> by field, the mirror that keeps it equal to something; nobody can set it */
    public readonly array $bound;

    /** @var array<string, array<string, Guard>> by field: the guards on choices that may say something else once it has changed */
    private readonly array $limits;

    /** @var list<Field> whose choices guards limit, in order */
    public readonly array $limited;

    /**
     * @param  list<Mirror>  $mirrors  on the type, in order
     * @param  list<Guard>  $guards  on the type
     */
    public function __construct(RecordType $type, public readonly array $mirrors, array $guards = [])
    {
        $steps = [];
        $after = [];
        $settled = [];
        $step = function (string $key, Formula $formula, string $target) use (&$steps, &$after, &$settled, $type): void {
            $steps[$key] = true;
            foreach (array_keys($type->fields) as $field) {
                if ($field === $target || Walk::mayRead($formula->tree, (string) $field)) {
                    $after[$field][$key] = true;
                }
            }
            if (! Walk::mayRead($formula->tree, $target)) {
                $settled[$key] = true;
            }
        };
        foreach ($mirrors as $mirror) {
            $step($mirror->step, $mirror->from, $mirror->field);
        }
        foreach ($type->derived as $field) {
            $field->formula === null || $step($field->key, $field->formula, $field->key);
        }
        $this->steps = $steps;
        $this->after = $after;
        $this->settled = $settled;
        $this->isPaired = array_filter($mirrors, fn (Mirror $m): bool => $m->isPaired) !== [];
        $bound = [];
        foreach ($mirrors as $mirror) {
            $mirror->isBound() && $bound[$mirror->field] ??= $mirror;
        }
        $this->bound = $bound;
        $limits = [];
        foreach ($guards as $guard) {
            foreach ($guard->effect === Effect::Choices ? array_keys($type->fields) : [] as $field) {
                if ($guard->dependsOn([(string) $field])) {
                    $limits[$field][$guard->key] = $guard;
                }
            }
        }
        $this->limits = $limits;
        $this->limited = array_values(array_filter($type->fields, fn (Field $field): bool => array_filter($guards, fn (Guard $g): bool => $g->effect === Effect::Choices && $g->field === $field->key) !== []));
    }

    /** @return array<string, Guard> guards on choices that may say something else once a field has changed, by key */
    public function limits(string $field): array
    {
        return $this->limits[$field] ?? [];
    }

    /** @return array<string, true> */
    public function after(string $field): array
    {
        return $this->after[$field] ?? [];
    }
}
