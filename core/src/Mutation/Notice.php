<?php

declare(strict_types=1);

namespace Sorvel\Core\Mutation;

use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Feel\Walk;
use Sorvel\Core\Finding\Book;
use Sorvel\Core\Replay\Coverage;
use Sorvel\Core\Replay\Sample;
use Sorvel\Core\Replay\SampleResult;
use Sorvel\Core\Replay\SampleRunner;

/** Replays samples through changed rulebooks: a change is noticed when a sample comes out otherwise than it does now. */
final class Notice
{
    /** @var array<string, string> by sample, what it comes to now */
    private array $now = [];

    /** @var array<string, array<string, true>> by part, the samples that can notice a change of it */
    private array $touching = [];

    /** @var array<string, Sample> by key, the quickest first */
    private array $samples = [];

    /** @param  list<Sample>  $samples */
    public function __construct(Book $book, array $samples)
    {
        $quick = fn (Sample $s): int => array_sum(array_map(fn ($step): int => $step->repeat, $s->steps));
        usort($samples, fn (Sample $a, Sample $b): int => $quick($a) <=> $quick($b));
        foreach ($samples as $sample) {
            $coverage = new Coverage;
            $result = (new SampleRunner($book->rulebook, $coverage))->run($sample);
            $this->samples[$sample->key] = $sample;
            $this->now[$sample->key] = self::verdict($result);
            foreach (array_keys($result->rules) as $rule) {
                $this->touching['rules/'.$rule][$sample->key] = true;
            }
        }
        // a table is read by rules and by what follows from fields; who calls it is due then
        foreach ($book->rulebook->tables as $table) {
            foreach ($book->rulebook->rules as $rule) {
                if (array_filter($rule->formulas(), fn (Formula $f): bool => Walk::readsName($f->tree, $table->key)) !== []) {
                    $this->touching['tables/'.$table->key] = ($this->touching['tables/'.$table->key] ?? []) + ($this->touching['rules/'.$rule->key] ?? []);
                }
            }
        }
    }

    /** The first sample that comes out otherwise; null when none does. */
    public function by(Mutation $mutation): ?string
    {
        $runner = new SampleRunner($mutation->rulebook);
        foreach ($this->mayNotice($mutation) as $sample) {
            if (self::verdict($runner->run($sample)) !== $this->now[$sample->key]) {
                return $sample->key;
            }
        }

        return null;
    }

    /** @return iterable<Sample> those that the changed part takes part in; of guards, mirrors and starts any may be */
    private function mayNotice(Mutation $mutation): iterable
    {
        $touching = $this->touching[$mutation->kind.'/'.$mutation->key] ?? [];
        $all = in_array($mutation->kind, ['guards', 'mirrors'], true);
        foreach ($this->samples as $key => $sample) {
            if ($all || isset($touching[$key])) {
                yield $sample;
            }
        }
    }

    private static function verdict(SampleResult $result): string
    {
        return $result->verdict->value.' '.json_encode($result->told());
    }
}
