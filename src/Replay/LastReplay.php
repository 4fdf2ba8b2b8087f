<?php

declare(strict_types=1);

namespace Sorvel\App\Replay;

use Doctrine\ORM\EntityManagerInterface;
use Sorvel\App\Draft\Draft;
use Sorvel\App\Work\LongWork;

/** What workers have found out about the samples of the draft as it is now. */
final class LastReplay
{
    public function __construct(private readonly EntityManagerInterface $entities, private readonly Draft $draft)
    {
    }

    /** @return array<string, string>|null verdict by sample; null when they have not replayed this draft, or not to its end */
    public function verdicts(): ?array
    {
        $work = $this->entities->getRepository(LongWork::class)->findOneBy(['kind' => ReplayTask::KIND], ['id' => 'DESC']);
        if ($work === null || $work->draft() !== LongWork::fingerprint($this->draft->tree(), $this->draft->sampleTrees())) {
            return null;
        }
        $chunks = $this->entities->getConnection()->fetchFirstColumn('SELECT result FROM long_work_chunk WHERE work = ?', [$work->id()]);
        $verdicts = [];
        foreach (count($chunks) === $work->chunks() ? $chunks : [] as $chunk) {
            $verdicts += array_column(array_values(((array) json_decode((string) $chunk, true, 512, JSON_THROW_ON_ERROR))['samples'] ?? []), 'verdict', 'key');
        }

        return $verdicts === [] ? null : $verdicts;
    }
}
