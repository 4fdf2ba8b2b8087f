<?php

declare(strict_types=1);

namespace Sorvel\Core\Proposal;

use Sorvel\Core\Engine\RuleStatus;
use Sorvel\Core\Replay\SampleResult;
use Sorvel\Core\Replay\StepResult;
use Sorvel\Core\Rule\Rule;

/** What came out of a sample as what is to be expected of it from now on. */
final class Accepted
{
    /**
     * @param  array<string, mixed>  $tree  a sample; what it expects already is replaced
     * @param  Rule  $rule  what it is about: what became of its fields and what it did is expected, and no more
     * @return array<string, mixed>
     */
    public static function of(array $tree, SampleResult $result, Rule $rule): array
    {
        foreach ($tree['steps'] as $i => $step) {
            $tree['steps'][$i]['expect'] = isset($result->steps[$i]) ? self::expectation($result->steps[$i], $rule) : [];
            if ($tree['steps'][$i]['expect'] === []) {
                unset($tree['steps'][$i]['expect']);
            }
        }

        return $tree;
    }

    /** @return array<string, mixed> */
    private static function expectation(StepResult $step, Rule $rule): array
    {
        $expect = [];
        foreach ($step->outcomes as $outcome) {
            $id = $outcome->record->id;
            if ($outcome->isRefused() || ! isset($step->values[$id])) {
                continue;
            }
            foreach ($outcome->changes as $change) {
                if ($change['rule'] === $rule->key) {
                    $expect[$id][$change['field']] = $step->values[$id][$change['field']] ?? null;
                }
            }
            // also what it left as it stood
            foreach (($outcome->rules()[$rule->key] ?? null)?->reachedRow() === true ? $rule->immediate : [] as $change) {
                $expect[$id][$change->field] = $step->values[$id][$change->field] ?? null;
            }
        }
        $status = $step->rules[$rule->key] ?? null;
        if ($status !== null && $status->reachedRow() && $status !== RuleStatus::Problem) {
            $expect['acted'] = [$rule->key];
        } elseif ($status?->reachedRow() !== true) {
            $expect['still'] = [$rule->key];
        }
        $problems = array_values(array_unique(array_map(fn (array $p): string => $p['rule'] ?? 'desk', $step->problems)));
        if ($problems !== []) {
            $expect['problems'] = $problems;
        }
        if ($step->outcome?->isRefused() === true) {
            $expect['refused'] = true;
        }
        $mine = fn (array $done): bool => ($done['rule'] ?? null) === $rule->key;
        foreach (['messages', 'calls', 'notes', 'notices'] as $what) {
            $done = $step->done[$what] ?? [];
            if (array_filter($done, $mine) !== []) {
                $expect[$what] = array_map(fn (array $one): array => self::done($what, $one), $done);
            }
        }
        if (($step->done['created'] ?? []) !== []) {
            $expect['created'] = array_map(fn (array $one): array => ['type' => $one['type']], $step->done['created']);
        }

        return $expect;
    }

    /**
     * @param  array<string, mixed>  $one
     * @return array<string, mixed>
     */
    private static function done(string $what, array $one): array
    {
        $kept = match ($what) {
            'messages' => ['to' => $one['to'] ?? null, 'subject' => $one['subject'] ?? null],
            'calls' => ['call' => $one['call'] ?? null, 'body' => $one['body'] ?? null],
            'notes' => ['contains' => $one['text'] ?? null],
            default => ['people' => $one['people'] ?? null, 'contains' => $one['text'] ?? null],
        };

        return array_filter($kept, fn (mixed $v): bool => $v !== null);
    }
}
