<?php

declare(strict_types=1);

namespace Sorvel\App\Work;

use Doctrine\ORM\EntityManagerInterface;
use Symfony\Component\Messenger\Attribute\AsMessageHandler;

/** Does one chunk; what has been done or stopped meanwhile is left alone. */
#[AsMessageHandler]
final class Worker
{
    public function __construct(private readonly EntityManagerInterface $entities, private readonly Tasks $tasks)
    {
    }

    public function __invoke(WorkOnChunk $message): void
    {
        $database = $this->entities->getConnection();
        if ($database->fetchOne('SELECT 1 FROM long_work w WHERE w.id = ? AND w.stopped = 0 AND NOT EXISTS (SELECT 1 FROM long_work_chunk c WHERE c.work = w.id AND c.number = ?)', [$message->work, $message->chunk]) === false) {
            return;
        }
        $work = $this->entities->find(LongWork::class, $message->work);
        if ($work === null) {
            return;
        }
        $begun = hrtime(true);
        $result = $this->tasks->of($work->kind())->chunk($work, $message->chunk);
        $database->executeStatement('INSERT IGNORE INTO long_work_chunk (work, number, result, ms) VALUES (?, ?, ?, ?)', [
            $message->work, $message->chunk, json_encode($result, JSON_THROW_ON_ERROR | JSON_UNESCAPED_UNICODE | JSON_INVALID_UTF8_SUBSTITUTE), (int) ((hrtime(true) - $begun) / 1e6),
        ]);
        $this->entities->clear();
    }
}
