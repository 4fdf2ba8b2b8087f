<?php

declare(strict_types=1);

namespace Sorvel\Core\Replay;

use Sorvel\Core\Engine\Outcome;
use Sorvel\Core\Engine\RuleStatus;

final class StepResult
{
    /** Of the event itself; null when there was none. For a repeated creation that of the last. */
    public readonly ?Outcome $outcome;

    /** @var array<string, RuleStatus> how far each rule got, over all records of the step */
    public readonly array $rules;

    /** @var list<array{rule: string|null, field: string|null, message: string}> */
    public readonly array $problems;

    /**
     * @param  list<Outcome>  $outcomes  of the event, then of its follow-ups; for a clock step of each event in turn
     * @param  list<Difference>  $differences
     * @param  array<string, array<string, mixed>>  $values  by record id, the values after the step of each record that was given, made or expected, plain data
     * @param  array<'messages'|'calls'|'created'|'notes'|'notices', list<array<string, mixed>>>  $done  what was done beside fields, plain data
     */
    public function __construct(
        public readonly array $outcomes,
        public readonly array $differences,
        public readonly array $values,
        public readonly array $done = [],
    ) {
        $this->outcome = $outcomes[0] ?? null;
        $rules = [];
        foreach ($outcomes as $outcome) {
            foreach ($outcome->rules() as $rule => $status) {
                $rules[$rule] = isset($rules[$rule]) ? $rules[$rule]->and($status) : $status;
            }
        }
        $this->rules = $rules;
        $this->problems = array_values(array_unique(array_merge(...array_map(fn (Outcome $o): array => $o->problems, $outcomes), ...[[]]), SORT_REGULAR));
    }
}
