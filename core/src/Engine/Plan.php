<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

use Sorvel\Core\Feel\Scope;
use Sorvel\Core\Feel\Warnings;
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

    /** @var list<string> fields whose change starts it */
    private readonly array $fields;

    /** @param  \Closure(EventScope, Scope, Warnings, Settling, list<array{field: string, before: mixed, after: mixed, rule: string|null}>, int): void  $look */
    public function __construct(public readonly Rule $rule, public readonly \Closure $look)
    {
        [$isPlain, $onCreation, $fields] = [true, false, []];
        foreach ($rule->starts as $start) {
            if ($start instanceof CreatedStart) {
                $onCreation = true;
            } elseif ($start instanceof ChangedStart && $start->from === null && $start->to === null) {
                array_push($fields, ...$start->fields);
            } else {
                $isPlain = false;
            }
        }
        $this->isPlain = $isPlain;
        $this->onCreation = $onCreation;
        $this->fields = array_values(array_unique($fields));
    }

    /**
     * For a plain one.
     *
     * @param  bool  $isMade  whether the event made the record, and the rule has not been asked before
     * @param  array<string, mixed>  $now  values
     */
    public function isDue(bool $isMade, Record $since, array $now): bool
    {
        if ($isMade && $this->onCreation) {
            return true;
        }
        foreach ($this->fields as $field) {
            $was = $since->values[$field] ?? null;
            $is = $now[$field] ?? null;
            if ($was !== $is && ! Record::same($was, $is)) {
                return true;
            }
        }

        return false;
    }
}
