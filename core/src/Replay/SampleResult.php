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
     * @param  int  $events  how many there were, with all that followed
     * @param  int  $queries  how often the store was asked for it: each search, and each record by its id once an event
     * @param  list<self>  $lines  of each line of its variants; the steps are those of the first that does not agree, or of the first
     */
    public function __construct(
        public readonly string $key,
        public readonly Verdict $verdict,
        public readonly array $broken,
        public readonly array $steps,
        public readonly array $rules,
        public readonly array $lines = [],
        public readonly int $events = 0,
        public readonly int $queries = 0,
    ) {
    }

    /** @return list<string> why it does not agree, in words */
    public function told(): array
    {
        $lines = $this->broken;
        foreach ($this->lines as $number => $line) {
            foreach ($line->told() as $words) {
                $lines[] = sprintf('line %d, %s', $number + 1, $words);
            }
        }
        if ($this->lines !== []) {
            return $lines;
        }
        foreach ($this->steps as $number => $step) {
            foreach ($step->differences as $d) {
                $lines[] = sprintf('step %d, %s: expected %s, came out %s', $number + 1, trim($d->record.' '.$d->field), self::shown($d->expected), self::shown($d->actual));
            }
        }

        return $lines;
    }

    private static function shown(mixed $value): string
    {
        return $value === null ? 'nothing' : (string) json_encode($value, JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES);
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

        return ['key' => $this->key, 'verdict' => $this->verdict->value, ...($this->broken === [] ? [] : ['broken' => $this->broken]), 'steps' => $steps, ...($this->lines === [] ? [] : ['lines' => array_map(fn (self $l): array => ['verdict' => $l->verdict->value, 'differences' => array_map(get_object_vars(...), array_merge(...array_map(fn (StepResult $s): array => $s->differences, $l->steps), ...[[]]))], $this->lines)])];
    }
}
