<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

use Sorvel\Core\Feel\Scope;
use Sorvel\Core\Feel\Warnings;
use Sorvel\Core\Model\Reads;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Rule\ChangedStart;
use Sorvel\Core\Rule\CreatedStart;
use Sorvel\Core\Rule\Rule;

/** A compiled rule, and when it is due, as far as that is plain. */
final class Plan
{
    /** Whether nothing but a creation and changes of fields starts it. */
    public readonly bool $isPlain;

    private readonly bool $onCreation;

    /** Whether a creation is what it asks for first. */
    public readonly bool $createdFirst;

    /** @var list<string> fields whose change starts it */
    private readonly array $fields;

    public readonly bool $hasLookUps;

    /** Whether something waits until the record has settled. */
    public readonly bool $waits;

    /**
     * @param  bool  $reads  whether it reads from the scope, so that what was read has to be forgotten
     * @param  \Closure(EventScope, Scope, Warnings, Settling, list<array{field: string, before: mixed, after: mixed, rule: string|null}>): int  $look
     * @param  \Closure(EventScope, Scope, Settling, Reads, array<string, mixed>, list<array{field: string, before: mixed, after: mixed, rule: string|null}>): int  $telling  the look in full
     * @param  array<string, array{\Closure|null, \Closure|null, \Closure|null, \Closure|null}>  $finds  by look-up, what it asks, {@see LookUpCompiler::finds}
     * @param  array<string, array{\Closure, \Closure}>  $waiting  formulas that wait until the record has settled, {@see LookUpCompiler::waiting}
     */
    public function __construct(public readonly Rule $rule, public readonly bool $reads, public readonly \Closure $look, public readonly \Closure $telling, public readonly array $finds, public readonly array $waiting)
    {
        $starts = self::starts($rule);
        $this->hasLookUps = $rule->lookUps !== [];
        $this->waits = $rule->waiting !== [];
        $this->isPlain = $starts['isPlain'];
        $this->onCreation = $starts['onCreation'];
        $this->createdFirst = $starts['createdFirst'];
        $this->fields = $starts['fields'];
    }

    /** @return array{isPlain: bool, isOfFields: bool, onCreation: bool, createdFirst: bool, fields: list<string>} */
    public static function starts(Rule $rule): array
    {
        [$isPlain, $onCreation, $isOfFields, $fields] = [true, false, true, []];
        foreach ($rule->starts as $start) {
            if ($start instanceof CreatedStart) {
                $onCreation = true;
            } elseif ($start instanceof ChangedStart) {
                $isPlain = $isPlain && $start->from === null && $start->to === null;
                array_push($fields, ...$start->fields);
            } else {
                $isPlain = $isOfFields = false;
            }
        }

        return ['isPlain' => $isPlain, 'isOfFields' => $isOfFields, 'onCreation' => $onCreation, 'createdFirst' => ($rule->starts[0] ?? null) instanceof CreatedStart, 'fields' => array_values(array_unique($fields))];
    }

    /**
     * For a plain one.
     *
     * @param  bool  $isMade  whether the event made the record, and the rule has not been asked before
     * @param  list<array{field: string, before: mixed, after: mixed, rule: string|null}>  $changes  of the whole event
     * @param  int  $since  how many there were when the rule looked last
     * @param  array<string, mixed>  $now  values
     */
    public function isDue(bool $isMade, array $changes, int $since, array $now): bool
    {
        if ($isMade && $this->onCreation) {
            return true;
        }
        $count = count($changes);
        foreach ($since < $count ? $this->fields : [] as $field) {
            for ($i = $since; $i < $count; $i++) {
                if ($changes[$i]['field'] === $field) {
                    $was = $changes[$i]['before'];
                    $is = Record::plain($now[$field] ?? null);
                    // a whole number may also stand as a decimal
                    if ($was !== $is && (! is_numeric($was) || is_string($was) || ! is_numeric($is) || is_string($is) || $was != $is)) {
                        return true;
                    }
                    break;
                }
            }
        }

        return false;
    }
}
