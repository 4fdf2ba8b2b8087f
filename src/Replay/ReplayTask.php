<?php

declare(strict_types=1);

namespace Sorvel\App\Replay;

use Sorvel\App\Work\LongWork;
use Sorvel\App\Work\Prepared;
use Sorvel\App\Work\Task;
use Sorvel\Core\Format\RulebookBuilder;
use Sorvel\Core\Replay\Coverage;
use Sorvel\Core\Replay\Report;
use Sorvel\Core\Replay\Sample;

/** Every sample of a draft that has so many that nobody waits for them: a share of them a chunk. */
final class ReplayTask implements Task
{
    public const KIND = 'replay';

    /** Samples a chunk, unless that made more chunks than are worth their way. */
    private const SAMPLES = 20;

    private const MOST = 40;

    public function __construct(private readonly Prepared $prepared)
    {
    }

    public function kind(): string
    {
        return self::KIND;
    }

    public function takes(): array
    {
        return [];
    }

    public function chunks(LongWork $work): int
    {
        return max(1, min(self::MOST, (int) ceil(count($work->samples()) / self::SAMPLES)));
    }

    public function chunk(LongWork $work, int $chunk): array
    {
        // every so many, so that long ones that stand together are shared
        $mine = array_filter($this->prepared->samples($work), fn (int $at): bool => $at % $work->chunks() === $chunk, ARRAY_FILTER_USE_KEY);
        $report = Report::of($this->prepared->book($work)->rulebook, array_values($mine));

        return ['samples' => array_combine(array_map(fn (Sample $s): string => $s->key, array_values($mine)), Replayed::samples($report)), 'coverage' => $report->coverage->counts()];
    }

    /** As the answer of a replay at once. */
    public function together(LongWork $work, array $chunks): array
    {
        $coverage = new Coverage;
        $samples = [];
        foreach ($chunks as $chunk) {
            $coverage->add(Coverage::fromCounts($chunk['coverage']));
            // none of them is an object still, not an empty list
            $samples += array_map(fn (array $s): array => ['rules' => (object) $s['rules']] + $s, $chunk['samples']);
        }
        $inOrder = array_values(array_filter(array_map(fn (array $tree): mixed => $samples[$tree['key']] ?? null, $work->samples())));
        $count = fn (string $verdict): int => count(array_filter($inOrder, fn (array $s): bool => $s['verdict'] === $verdict));

        return [
            'totals' => ['agrees' => $count('agrees'), 'differs' => $count('differs'), 'broken' => $count('broken')],
            'samples' => $inOrder,
            'coverage' => $coverage->toArray(RulebookBuilder::build($work->rulebook())),
            'traced' => null,
            'ms' => (float) array_sum(array_column($inOrder, 'ms')),
        ];
    }
}
