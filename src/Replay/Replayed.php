<?php

declare(strict_types=1);

namespace Sorvel\App\Replay;

use Sorvel\Core\Engine\RuleStatus;
use Sorvel\Core\Replay\Difference;
use Sorvel\Core\Replay\Report;
use Sorvel\Core\Replay\SampleResult;
use Sorvel\Core\Replay\StepResult;

/** Replayed samples as screens are told of them. */
final class Replayed
{
    /** @return list<array<string, mixed>> plain data */
    public static function samples(Report $report): array
    {
        return array_map(fn (SampleResult $r): array => [...self::sample($r), 'events' => $r->events, 'queries' => $r->queries, ...$report->took[$r->key]], $report->results);
    }

    /** @return array<string, mixed> */
    private static function sample(SampleResult $result): array
    {
        return [
            'key' => $result->key,
            'verdict' => $result->verdict->value,
            'broken' => $result->broken,
            'rules' => (object) array_map(fn (RuleStatus $s): string => $s->value, $result->rules),
            'lines' => array_map(fn (SampleResult $l): array => ['verdict' => $l->verdict->value, 'broken' => $l->broken, 'differences' => array_map(get_object_vars(...), array_merge(...array_map(fn (StepResult $s): array => $s->differences, $l->steps), ...[[]]))], $result->lines),
            'steps' => array_map(fn (StepResult $s): array => [
                'acted' => array_keys(array_filter($s->rules, fn (RuleStatus $r): bool => $r->reachedRow())),
                'differences' => array_map(fn (Difference $d): array => get_object_vars($d), $s->differences),
                'problems' => $s->problems,
                'refused' => $s->outcome->refused ?? [],
                'changes' => $s->outcome->changes ?? [],
                'done' => $s->done + ['messages' => [], 'calls' => [], 'created' => [], 'notes' => [], 'notices' => []],
            ], $result->steps),
        ];
    }
}
