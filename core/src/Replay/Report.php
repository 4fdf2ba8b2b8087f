<?php

declare(strict_types=1);

namespace Sorvel\Core\Replay;

use Sorvel\Core\Engine\TraceLevel;
use Sorvel\Core\Model\Rulebook;

/** Many samples replayed through one rulebook. */
final class Report
{
    /** @param  list<SampleResult>  $results */
    private function __construct(private readonly Rulebook $rulebook, public readonly array $results, public readonly Coverage $coverage)
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
        foreach ($samples as $sample) {
            $results[] = $runner->run($sample, $sample->key === $traced ? TraceLevel::Full : TraceLevel::Outcome);
        }

        return new self($rulebook, $results, $coverage);
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
