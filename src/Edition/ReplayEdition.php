<?php

declare(strict_types=1);

namespace Sorvel\App\Edition;

use Doctrine\ORM\EntityManagerInterface;
use Sorvel\Core\Format\RulebookBuilder;
use Sorvel\Core\Format\SampleBuilder;
use Sorvel\Core\Replay\Report;
use Sorvel\Core\Replay\Sample;
use Sorvel\Core\Replay\Verdict;
use Symfony\Component\Messenger\Attribute\AsMessageHandler;

/** Writes down, once and for good, what the samples came to under an edition. */
#[AsMessageHandler]
final class ReplayEdition
{
    public function __construct(private readonly EntityManagerInterface $entities)
    {
    }

    public function __invoke(EditionPublished $message): void
    {
        $edition = $this->entities->find(Edition::class, $message->number);
        if ($edition === null) {
            return;
        }
        $report = Report::of(RulebookBuilder::build($edition->rulebook()), array_map(fn (array $tree): Sample => SampleBuilder::build($tree), $edition->samples()));
        $edition->replayed(['agrees' => $report->count(Verdict::Agrees), 'differs' => $report->count(Verdict::Differs), 'broken' => $report->count(Verdict::Broken)]);
        $this->entities->flush();
    }
}
