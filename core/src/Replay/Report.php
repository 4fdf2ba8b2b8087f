<?php

declare(strict_types=1);

namespace Sorvel\Core\Replay;

use Sorvel\Core\Engine\TraceLevel;
use Sorvel\Core\Model\Rulebook;

/** Many samples replayed through one rulebook. */
final class Report
{
    /**
     * @param  list<SampleResult>  $results
     * @param  array<string, array{ms: float, memory: int}>  $took  by sample: milliseconds, and bytes at most beyond what was there
     */
    private function __construct(private readonly Rulebook $rulebook, public readonly array $results, public readonly Coverage $coverage, public readonly array $took)
    {
    }

    /**
     * @param  iterable<Sample>  $samples
     * @param  string|null  $traced  the key of the sample to trace in full
     */
    public static function of(Rulebook $rulebook, iterable $samples, ?string $traced = null): self
    {
        $coverage = new Coverage;
        $runner = new SampleRunner($rulebook, $coverage);
        $results = [];
        $took = [];
        foreach ($samples as $sample) {
            memory_reset_peak_usage();
            [$begun, $there] = [hrtime(true), memory_get_usage()];
            $results[] = $runner->run($sample, $sample->key === $traced ? TraceLevel::Full : TraceLevel::Outcome);
            $took[$sample->key] = ['ms' => round((hrtime(true) - $begun) / 1e6, 1), 'memory' => max(0, memory_get_peak_usage() - $there)];
        }

        return new self($rulebook, $results, $coverage, $took);
    }

    public function count(Verdict $verdict): int
    {
        return count(array_filter($this->results, fn (SampleResult $r): bool => $r->verdict === $verdict));
    }

    /** @return array<string, mixed> as `bin/sorvel replay --json` prints it */
    public function toArray(?int $edition = null): array
    {
        return [
            'edition' => $edition,
            'samples' => array_map(fn (SampleResult $r): array => $r->toArray(), $this->results),
            'coverage' => $this->coverage->toArray($this->rulebook),
            'totals' => ['agrees' => $this->count(Verdict::Agrees), 'differs' => $this->count(Verdict::Differs), 'broken' => $this->count(Verdict::Broken)],
        ];
    }
}
