<?php

declare(strict_types=1);

namespace Sorvel\App\Work;

use Sorvel\Core\Mutation\Mutations;
use Sorvel\Core\Mutation\Notice;
use Sorvel\Core\Proposal\Proposer;

/** What do the samples not notice? The rulebook changed in small ways, a share of them a chunk. */
final class NoticeTask implements Task
{
    private const CHUNKS = 48;

    private ?int $of = null;

    private ?Notice $notice = null;

    private ?Proposer $proposer = null;

    public function __construct(private readonly Prepared $prepared)
    {
    }

    public function kind(): string
    {
        return 'notice';
    }

    public function takes(): array
    {
        return [];
    }

    public function chunks(LongWork $work): int
    {
        return self::CHUNKS;
    }

    public function chunk(LongWork $work, int $chunk): array
    {
        $book = $this->prepared->book($work);
        $samples = $this->prepared->samples($work);
        if ($this->of !== $work->id() || $this->notice === null) {
            [$this->notice, $this->proposer, $this->of] = [new Notice($book, $samples), null, $work->id()];
        }
        [$tried, $unnoticed, $number] = [0, [], 0];
        foreach (Mutations::of($book) as $mutation) {
            if ($number++ % self::CHUNKS !== $chunk) {
                continue;
            }
            $tried++;
            if ($this->notice->by($mutation) === null) {
                $proposed = ($this->proposer ??= new Proposer($book, $samples))->noticing($mutation);
                $unnoticed[] = ['place' => $number, 'kind' => $mutation->kind, 'key' => $mutation->key, 'at' => $mutation->at, 'says' => $mutation->says, 'proposed' => $proposed?->tree];
            }
        }

        return ['tried' => $tried, 'unnoticed' => $unnoticed];
    }

    public function together(LongWork $work, array $chunks): array
    {
        $unnoticed = array_merge(...array_column($chunks, 'unnoticed'), ...[[]]);
        usort($unnoticed, fn (array $a, array $b): int => $a['place'] <=> $b['place']);

        return ['tried' => array_sum(array_column($chunks, 'tried')), 'unnoticed' => $unnoticed];
    }
}
