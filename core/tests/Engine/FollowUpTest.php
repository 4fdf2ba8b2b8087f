<?php

declare(strict_types=1);

namespace Sorvel\Core\Tests\Engine;

use PHPUnit\Framework\TestCase;
use Sorvel\Core\Engine\Cascade;
use Sorvel\Core\Engine\Event;
use Sorvel\Core\Engine\TraceLevel;
use Sorvel\Core\Format\RulebookReader;
use Sorvel\Core\Model\Condition;
use Sorvel\Core\Model\InMemoryStore;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordStore;
use Sorvel\Core\Model\Rulebook;
use Sorvel\Core\Model\StoreFailure;

/** What follows from an event: all of it or nothing, and never at the cost of the save itself. */
final class FollowUpTest extends TestCase
{
    private const AT = '2027-01-04T09:00:00';

    public function test_a_failure_in_the_middle_leaves_nothing_and_costs_nobody_their_save(): void
    {
        $store = $this->harbour(4);
        $failing = $this->failingAt($store, 'J-3', new \RuntimeException('the disk is gone'));
        $outcomes = (new Cascade($this->book()))->run(Event::changed('ship', 'S1', ['laid_up' => true], 'ann', self::AT), $failing);
        self::assertCount(1, $outcomes, 'two of four had been worked out; none of them is done');
        self::assertFalse($outcomes[0]->isRefused());
        self::assertTrue($outcomes[0]->record->value('laid_up'));
        self::assertStringContainsString('nothing of that was done: the disk is gone', $outcomes[0]->problems[0]['message']);
    }

    public function test_a_store_that_fails_ends_everything(): void
    {
        $failing = $this->failingAt($this->harbour(4), 'J-3', new StoreFailure(new \RuntimeException('deadlock')));
        $this->expectException(StoreFailure::class);
        (new Cascade($this->book()))->run(Event::changed('ship', 'S1', ['laid_up' => true], 'ann', self::AT), $failing);
    }

    public function test_a_rule_that_fails_while_it_looks_up_does_not_swallow_a_broken_store(): void
    {
        $store = $this->harbour(1);
        $broken = $this->failingAt($store, 'matching', new StoreFailure(new \RuntimeException('gone')));
        $this->expectException(StoreFailure::class);
        (new Cascade($this->book()))->run(Event::created('job', 'J-9', ['title' => 'A', 'mode' => 'all', 'ship' => 'S1'], 'ann', self::AT), $broken);
    }

    public function test_more_records_than_the_bound_is_a_problem_and_nothing_is_done(): void
    {
        $store = $this->harbour(Cascade::MAX_RECORDS + 1);
        $outcomes = (new Cascade($this->book()))->run(Event::changed('ship', 'S1', ['laid_up' => true], 'ann', self::AT), $store, TraceLevel::Outcome);
        self::assertCount(1, $outcomes);
        self::assertStringContainsString('More than 10,000 records', $outcomes[0]->problems[0]['message']);
        self::assertTrue($outcomes[0]->record->value('laid_up'));
    }

    public function test_of_very_many_only_what_came_of_each_is_told(): void
    {
        $outcomes = (new Cascade($this->book()))->run(Event::changed('ship', 'S1', ['laid_up' => true], 'ann', self::AT), $this->harbour(300));
        self::assertCount(302, $outcomes, 'the ship, its jobs, and the ship once more for its count');
        self::assertNotSame([], $outcomes[0]->trace);
        self::assertSame([], $outcomes[1]->trace);
        self::assertSame([['state', 'new', 'done', 'lay_up'], ['out', null, 'laid up', 'lay_up']], array_map(array_values(...), $outcomes[1]->changes));
        self::assertSame(0, $outcomes[301]->record->value('open_jobs'));
    }

    public function test_a_set_of_events_is_foreseen_with_as_many_questions_as_there_are_kinds_of_them(): void
    {
        $questions = 0;
        $store = $this->counting($this->harbour(60), $questions);
        $events = array_map(fn (int $i): Event => Event::created('job', 'N-'.$i, ['title' => 'New', 'mode' => 'all', 'ship' => 'S1'], 'ann', self::AT), range(1, 50));
        (new Cascade($this->book()))->foresee($events, $store);
        self::assertLessThan(20, $questions, 'fifty events');
        $few = $questions;
        $questions = 0;
        (new Cascade($this->book()))->foresee(array_slice($events, 0, 5), $store);
        self::assertSame($few, $questions, 'five events');
    }

    private function book(): Rulebook
    {
        return RulebookReader::read((string) file_get_contents(__DIR__.'/fixtures/rulebook.yaml'), 'rulebook.yaml');
    }

    private function harbour(int $jobs): InMemoryStore
    {
        $store = new InMemoryStore;
        $store->save(new Record('S1', 'ship', ['name' => 'Tern', 'open_jobs' => $jobs]));
        for ($i = 1; $i <= $jobs; $i++) {
            $store->save(new Record('J-'.$i, 'job', ['number' => 'J-'.$i, 'title' => 'Job '.$i, 'ship' => 'S1', 'mode' => 'close', 'state' => 'new']));
        }

        return $store;
    }

    /** A store that fails when an id is read a second time: once for the look-up, then for its own event. */
    private function failingAt(InMemoryStore $under, string $at, \Throwable $failure): RecordStore
    {
        return $this->watching($under, function (string $question, array $ids) use ($at, $failure): void {
            if ($question === $at || ($question === 'find' && in_array($at, $ids, true))) {
                throw $failure;
            }
        });
    }

    private function counting(InMemoryStore $under, int &$questions): RecordStore
    {
        // one by one only what has been fetched as a set is read
        return $this->watching($under, function (string $question) use (&$questions): void {
            $questions += $question === 'find' ? 0 : 1;
        });
    }

    /** @param  \Closure(string, list<string>): void  $told */
    private function watching(InMemoryStore $under, \Closure $told): RecordStore
    {
        return new class($under, $told) implements RecordStore
        {
            /** @param  \Closure(string, list<string>): void  $told */
            public function __construct(private readonly InMemoryStore $under, private readonly \Closure $told)
            {
            }

            public function find(string $id): ?Record
            {
                ($this->told)('find', [$id]);

                return $this->under->find($id);
            }

            public function findMany(array $ids): array
            {
                ($this->told)('findMany', []);

                return $this->under->findMany($ids);
            }

            public function peek(array $ids): iterable
            {
                return $this->under->peek($ids);
            }

            public function referring(string $type, string $field, array $ids): array
            {
                return $this->under->referring($type, $field, $ids);
            }

            public function matching(string $type, array $conditions): array
            {
                ($this->told)('matching', array_map(fn (Condition $c): string => $c->field, $conditions));

                return $this->under->matching($type, $conditions);
            }

            public function foresee(string $type, string $field, array $values): void
            {
                ($this->told)('foresee', []);
            }

            public function lastTurn(string $team): ?string
            {
                return null;
            }

            public function takeTurn(string $team, string $person): void
            {
            }

            public function loads(array $people, array $open): array
            {
                return [];
            }

            public function named(\Sorvel\Core\Model\RecordType $type, string $name): array
            {
                return [];
            }

            public function hold(array $ids): void
            {
            }

            public function save(Record $record): void
            {
            }

            public function delete(string $id): void
            {
            }

            public function newId(\Sorvel\Core\Model\RecordType $type): string
            {
                return 'X-1';
            }
        };
    }
}
