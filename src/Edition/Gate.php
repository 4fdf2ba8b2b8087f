<?php

declare(strict_types=1);

namespace Sorvel\App\Edition;

use Sorvel\App\Draft\Draft;
use Sorvel\App\Finding\DraftFindings;
use Sorvel\App\Replay\LastReplay;
use Sorvel\Core\Finding\Finding;
use Sorvel\Core\Replay\Report;
use Sorvel\Core\Replay\Sample;
use Sorvel\Core\Replay\Verdict;

/** What stands in the way of publishing the draft: samples that do not agree, and blocking findings nobody has accepted. */
final class Gate
{
    public function __construct(private readonly Draft $draft, private readonly DraftFindings $findings, private readonly LastReplay $last)
    {
    }

    /** @return array{samples: list<array{key: string, title: string, verdict: string}>, findings: list<array{id: string, says: string}>} */
    public function inTheWay(): array
    {
        $samples = $this->draft->samples();
        $verdicts = $this->last->verdicts() ?? $this->replayed($samples);
        $off = array_values(array_filter($samples, fn (Sample $s): bool => $verdicts[$s->key] !== Verdict::Agrees->value));

        return [
            'samples' => array_map(fn (Sample $s): array => ['key' => $s->key, 'title' => $s->title, 'verdict' => $verdicts[$s->key]], $off),
            'findings' => array_map(fn (Finding $f): array => ['id' => $f->id, 'says' => $f->says], $this->findings->blocking()),
        ];
    }

    /**
     * @param  list<Sample>  $samples
     * @return array<string, string> verdict by sample
     */
    private function replayed(array $samples): array
    {
        $verdicts = [];
        foreach (Report::of($this->draft->rulebook(), $samples)->results as $result) {
            $verdicts[$result->key] = $result->verdict->value;
        }

        return $verdicts;
    }
}
