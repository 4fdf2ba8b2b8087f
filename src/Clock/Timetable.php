<?php

declare(strict_types=1);

namespace Sorvel\App\Clock;

use Doctrine\DBAL\Connection;
use Doctrine\ORM\EntityManagerInterface;
use Psr\Clock\ClockInterface;
use Psr\Log\LoggerInterface;
use Sorvel\App\Desk\Desk;
use Sorvel\App\Edition\Editions;
use Sorvel\Core\Engine\Event;
use Sorvel\Core\Engine\Schedule;

/** Runs what is due by the clock: once for all times since it last looked. */
final class Timetable
{
    public function __construct(
        private readonly Connection $database,
        private readonly EntityManagerInterface $entities,
        private readonly Desk $desk,
        private readonly Editions $editions,
        private readonly ClockInterface $clock,
        private readonly LoggerInterface $logger,
    ) {
    }

    /** @return int how many records it came to */
    public function run(): int
    {
        $this->plan();
        $count = 0;
        while (($done = $this->work()) !== null) {
            $count += $done;
            $this->entities->clear();
        }

        return $count;
    }

    /** What is due is written down together with the moment until which it was looked at: neither twice nor lost. */
    private function plan(): void
    {
        $rulebook = $this->editions->rulebook();
        // one at a time, however many machines there are
        $lock = 'sorvel-clock-'.hash('xxh64', (string) $this->database->getDatabase());
        if ($rulebook === null || (int) self::text($this->database->fetchOne('SELECT GET_LOCK(?, 0)', [$lock])) !== 1) {
            return;
        }
        try {
            $now = $this->clock->now();
            $last = $this->database->fetchOne("SELECT at FROM clock WHERE name = 'schedule'");
            $to = $now->setTime((int) $now->format('H'), (int) $now->format('i'));
            $from = $last === false ? $to : new \DateTimeImmutable(self::text($last));
            if ($last !== false && $to <= $from) {
                return;
            }
            $schedule = new Schedule($rulebook);
            $due = $schedule->due($from, $to);
            $events = $due === [] ? [] : $schedule->events($due, $this->desk->store($now, writes: false), $now->format(\DATE_ATOM));
            $this->database->transactional(function () use ($events, $to, $now): void {
                foreach (array_chunk($events, 500) as $chunk) {
                    $this->database->executeStatement('INSERT INTO scheduled_event (type, record, due, at) VALUES '.implode(', ', array_fill(0, count($chunk), '(?, ?, ?, ?)')), array_merge(...array_map(fn (Event $e): array => [$e->type, $e->id, json_encode($e->due), $now->format('Y-m-d H:i:s')], $chunk)));
                }
                $this->database->executeStatement("INSERT INTO clock (name, at) VALUES ('schedule', ?) ON DUPLICATE KEY UPDATE at = VALUES(at)", [$to->format('Y-m-d H:i:s')]);
            });
        } catch (\Throwable $failure) {
            $this->logger->error('The timetable stopped: {why}', ['why' => $failure->getMessage(), 'exception' => $failure]);
        } finally {
            $this->database->fetchOne('SELECT RELEASE_LOCK(?)', [$lock]);
        }
    }

    /** @return int|null how many of the next hundred came to something; null when none is left */
    private function work(): ?int
    {
        return $this->desk->atOnce(function (): ?int {
            $rows = $this->database->fetchAllAssociative('SELECT * FROM scheduled_event ORDER BY id LIMIT 100 FOR UPDATE SKIP LOCKED');
            if ($rows === []) {
                return null;
            }
            $at = $this->clock->now()->format(\DATE_ATOM);
            $count = $this->desk->scheduled(array_map(function (array $r) use ($at): Event {
                $due = json_decode(self::text($r['due']), true);

                return Event::scheduled(self::text($r['type']), self::text($r['record']), array_map(fn (mixed $place): int => (int) self::text($place), is_array($due) ? $due : []), $at);
            }, $rows));
            $this->database->executeStatement('DELETE FROM scheduled_event WHERE id IN ('.implode(',', array_map(fn (array $r): int => (int) self::text($r['id']), $rows)).')');

            return $count;
        });
    }

    private static function text(mixed $value): string
    {
        return is_scalar($value) ? (string) $value : '';
    }
}
