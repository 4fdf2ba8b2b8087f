<?php

declare(strict_types=1);

namespace Sorvel\Tests\Api;

use Doctrine\DBAL\Connection;
use Doctrine\DBAL\DriverManager;
use Doctrine\DBAL\Tools\DsnParser;
use PHPUnit\Framework\TestCase;
use Sorvel\App\Desk\DoctrineStore;
use Sorvel\App\Desk\RecordIndex;
use Sorvel\App\Desk\Records;
use Sorvel\Core\Model\RecordStore;
use Sorvel\Core\Model\Rulebook;
use Sorvel\Core\Tests\Model\RecordStoreContract;

/** The store in the database, held to the same promises as the one in memory. Each test is rolled back. */
final class DoctrineStoreTest extends TestCase
{
    use RecordStoreContract;

    private Connection $database;

    protected function setUp(): void
    {
        $this->database = DriverManager::getConnection((new DsnParser(['mysql' => 'pdo_mysql']))->parse((string) getenv('DATABASE_URL')));
        $this->database->beginTransaction();
    }

    protected function tearDown(): void
    {
        $this->database->rollBack();
        $this->database->close();
    }

    protected function store(Rulebook $rulebook): RecordStore
    {
        return new DoctrineStore(new Records($this->database, new RecordIndex($this->database)), $rulebook, new \DateTimeImmutable);
    }

    protected function again(Rulebook $rulebook, RecordStore $store): RecordStore
    {
        return $this->store($rulebook);
    }

    public function test_the_index_follows_the_record(): void
    {
        $store = $this->store($this->desk());
        $index = fn (): array => $this->database->fetchAllAssociative('SELECT w.word AS field, t.value FROM record r JOIN (SELECT n, slot, value FROM record_text UNION ALL SELECT n, slot, CONCAT(value) FROM record_number) t ON t.n = r.n JOIN record_word w ON w.id = t.slot WHERE r.id = ? ORDER BY field, t.value', ['X-J1']);
        $store->save(new \Sorvel\Core\Model\Record('X-J1', 'job', ['points' => 3, 'tags' => ['b', 'a'], 'sure' => true, 'note' => 'not indexed']));
        self::assertSame([['points', '3'], ['sure', 'true'], ['tags', 'a'], ['tags', 'b']], array_map(fn (array $r): array => [$r['field'], $r['value']], $index()));
        $store->save(new \Sorvel\Core\Model\Record('X-J1', 'job', ['tags' => ['a']]));
        self::assertSame([['tags', 'a']], array_map(fn (array $r): array => [$r['field'], $r['value']], $index()));
    }
}
