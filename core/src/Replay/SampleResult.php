<?php

declare(strict_types=1);

namespace Sorvel\Core\Replay;

use Sorvel\Core\Engine\RuleStatus;

final class SampleResult
{
    /**
     * @param  list<string>  $broken  why it cannot be replayed
     * @param  list<StepResult>  $steps
     * @param  array<string, RuleStatus>  $rules  by rule, how far it got at most
     */
    public function __construct(
        public readonly string $key,
        public readonly Verdict $verdict,
        public readonly array $broken,
        public readonly array $steps,
        public readonly array $rules,
    ) {
    }

    /** @return array<string, mixed> as `bin/sorvel replay --json` prints it */
    public function toArray(): array
    {
        $steps = [];
        foreach ($this->steps as $step) {
            $steps[] = [
                'acted' => array_keys(array_filter($step->rules, fn (RuleStatus $s): bool => $s->reachedRow())),
                'differences' => array_map(get_object_vars(...), $step->differences),
                'problems' => $step->problems,
            ];
        }

        return ['key' => $this->key, 'verdict' => $this->verdict->value, ...($this->broken === [] ? [] : ['broken' => $this->broken]), 'steps' => $steps];
    }
}
