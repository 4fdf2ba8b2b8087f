<?php

declare(strict_types=1);

namespace Sorvel\App\Edition;

use Sorvel\App\Draft\Draft;
use Sorvel\App\Finding\DraftFindings;
use Sorvel\Core\Finding\Finding;
use Sorvel\Core\Replay\Report;
use Sorvel\Core\Replay\SampleResult;
use Sorvel\Core\Replay\Verdict;

/** What stands in the way of publishing the draft: samples that do not agree, and blocking findings nobody has accepted. */
final class Gate
{
    public function __construct(private readonly Draft $draft, private readonly DraftFindings $findings)
    {
    }

    /** @return array{samples: list<array{key: string, title: string, verdict: string}>, findings: list<array{id: string, says: string}>} */
    public function inTheWay(): array
    {
        $samples = $this->draft->samples();
        $titles = array_column($samples, 'title', 'key');
        $off = array_values(array_filter(Report::of($this->draft->rulebook(), $samples)->results, fn (SampleResult $r): bool => $r->verdict !== Verdict::Agrees));

        return [
            'samples' => array_map(fn (SampleResult $r): array => ['key' => $r->key, 'title' => $titles[$r->key], 'verdict' => $r->verdict->value], $off),
            'findings' => array_map(fn (Finding $f): array => ['id' => $f->id, 'says' => $f->says], $this->findings->blocking()),
        ];
    }
}
