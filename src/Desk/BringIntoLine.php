<?php

declare(strict_types=1);

namespace Sorvel\App\Desk;

use Doctrine\ORM\EntityManagerInterface;
use Psr\Log\LoggerInterface;
use Sorvel\App\Edition\RecordsToFollow;
use Sorvel\App\Http\Problem;
use Symfony\Component\Messenger\Attribute\AsMessageHandler;

/** Work after a new edition: derived fields, mirrors and tallies of records from before it take the values that now hold. */
#[AsMessageHandler]
final class BringIntoLine
{
    public function __construct(private readonly Desk $desk, private readonly Records $records, private readonly EntityManagerInterface $entities, private readonly LoggerInterface $logger)
    {
    }

    public function __invoke(RecordsToFollow $message): void
    {
        foreach ($message->types as $type) {
            $changed = 0;
            foreach ($this->records->ids($type) as $id) {
                try {
                    $changed += $this->desk->bringIntoLine($id) ? 1 : 0;
                } catch (Problem $problem) {
                    $this->logger->warning('{record} was not brought into line: {why}', ['record' => $id, 'why' => $problem->getMessage()]);
                }
                $this->entities->clear();
            }
            $this->logger->info('{count} records of type {type} were brought into line with edition {edition}.', ['count' => $changed, 'type' => $type, 'edition' => $message->edition]);
        }
    }
}
