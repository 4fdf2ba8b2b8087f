<?php

declare(strict_types=1);

namespace Sorvel\App\Line;

use Doctrine\DBAL\Connection;
use Doctrine\ORM\EntityManagerInterface;
use Psr\Log\LoggerInterface;
use Sorvel\App\Desk\Desk;
use Sorvel\App\Desk\Records;
use Sorvel\App\Http\Problem;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Rulebook;
use Symfony\Component\Messenger\Attribute\AsMessageHandler;

/** Mirrors that are always equal, derived fields and tallies, each worked out anew and held beside what is stored. */
#[AsMessageHandler]
final class LineChecker
{
    private const EXAMPLES = 20;

    private const PAGE = 200;

    public function __construct(private readonly EntityManagerInterface $entities, private readonly Connection $database, private readonly Desk $desk, private readonly Records $records, private readonly LoggerInterface $logger)
    {
    }

    /** @return list<string> types in which something follows */
    public static function types(Rulebook $rulebook): array
    {
        return array_values(array_map(fn (RecordType $t): string => $t->key, array_filter($rulebook->types, fn (RecordType $t): bool => $t->derived !== [] || $rulebook->mirrorsOn($t->key) !== [] || array_filter($t->fields, fn ($f): bool => $f->tally !== null) !== [])));
    }

    public function __invoke(WalkOverRecords $message): void
    {
        $check = $this->entities->find(LineCheck::class, $message->check);
        if ($check?->isRunning() !== true) {
            return;
        }
        $mends = $check->mends();
        $found = [];
        $done = 0;
        foreach (self::types($this->desk->rulebook()) as $type) {
            foreach ($this->pages($type) as $ids) {
                $out = $this->desk->outOfLine($ids);
                foreach ($out as $id => $fields) {
                    if ($mends && ! $this->mend((string) $id)) {
                        continue;
                    }
                    foreach ($fields as $field => [$kind, $is, $should]) {
                        $place = $type.'.'.$field;
                        $found[$place] ??= ['type' => $type, 'field' => (string) $field, 'kind' => $kind, 'out' => 0, 'examples' => []];
                        $found[$place]['out']++;
                        if (count($found[$place]['examples']) < self::EXAMPLES) {
                            $found[$place]['examples'][] = ['record' => (string) $id, 'is' => $is, 'should' => $should];
                        }
                    }
                }
                $this->entities->clear();
                $done += count($ids);
                if ($this->database->executeStatement("UPDATE line_check SET done = ?, found = ? WHERE id = ? AND stage = 'running'", [$done, json_encode(array_values($found), JSON_THROW_ON_ERROR), $message->check]) === 0
                    && $this->database->fetchOne('SELECT stage FROM line_check WHERE id = ?', [$message->check]) !== 'running') {
                    return;
                }
            }
        }
        $this->database->update('line_check', ['stage' => 'done', 'done' => $done, 'total' => $done], ['id' => $message->check]);
    }

    /** Whether it was; what refuses to be stays out of line, is logged, and is found by the next check. */
    private function mend(string $id): bool
    {
        try {
            return $this->desk->bringIntoLine($id);
        } catch (Problem $problem) {
            $this->logger->warning('{record} was not brought into line: {why}', ['record' => $id, 'why' => implode(' ', $problem->details())]);

            return false;
        }
    }

    /** @return iterable<list<string>> */
    private function pages(string $type): iterable
    {
        $ids = [];
        foreach ($this->records->ids($type) as $id) {
            $ids[] = $id;
            if (count($ids) === self::PAGE) {
                yield $ids;
                $ids = [];
            }
        }
        if ($ids !== []) {
            yield $ids;
        }
    }
}
