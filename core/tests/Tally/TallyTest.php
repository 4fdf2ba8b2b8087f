<?php

declare(strict_types=1);

namespace Sorvel\Core\Tests\Tally;

use PHPUnit\Framework\TestCase;
use Sorvel\Core\Engine\Cascade;
use Sorvel\Core\Engine\Event;
use Sorvel\Core\Format\InvalidInput;
use Sorvel\Core\Format\RulebookBuilder;
use Sorvel\Core\Model\InMemoryStore;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\Rulebook;
use Sorvel\Core\Tally\Tallies;
use Sorvel\Core\Tests\Desks;

final class TallyTest extends TestCase
{
    private const FIELDS = [
        ['key' => 'jobs', 'label' => 'Open jobs', 'type' => 'tally', 'of' => 'job', 'via' => 'ship', 'measure' => 'count', 'where' => 'state != "done"'],
        ['key' => 'total', 'label' => 'Points', 'type' => 'tally', 'of' => 'job', 'via' => 'ship', 'measure' => 'sum', 'field' => 'points'],
        ['key' => 'mean', 'label' => 'Mean', 'type' => 'tally', 'of' => 'job', 'via' => 'ship', 'measure' => 'average', 'field' => 'points'],
        ['key' => 'least', 'label' => 'Least', 'type' => 'tally', 'of' => 'job', 'via' => 'ship', 'measure' => 'min', 'field' => 'points'],
        ['key' => 'most', 'label' => 'Most', 'type' => 'tally', 'of' => 'job', 'via' => 'ship', 'measure' => 'max', 'field' => 'points'],
        ['key' => 'kinds', 'label' => 'Kinds', 'type' => 'tally', 'of' => 'job', 'via' => 'ship', 'measure' => 'distinct', 'field' => 'level'],
    ];

    public function test_tallies_are_right_in_the_same_save(): void
    {
        $book = self::book();
        $store = self::store($book);
        self::assertSame([0, 0, null, null, null, 0], self::of($store, 'S1'));
        self::create($book, $store, 'J-1', ['ship' => 'S1', 'points' => 4, 'level' => 'low']);
        self::create($book, $store, 'J-2', ['ship' => 'S1', 'points' => 10, 'level' => 'low']);
        self::create($book, $store, 'J-3', ['ship' => 'S2', 'points' => 7, 'level' => 'mid']);
        self::create($book, $store, 'J-4', ['ship' => 'S1']);
        self::assertSame([3, 14, 7, 4, 10, 1], self::of($store, 'S1'));
        self::assertSame([1, 7, 7, 7, 7, 1], self::of($store, 'S2'));

        // another value, another parent, none, and one that does not count any more
        self::change($book, $store, 'J-2', ['points' => 2, 'level' => 'high']);
        self::assertSame([3, 6, 3, 2, 4, 2], self::of($store, 'S1'));
        self::change($book, $store, 'J-1', ['ship' => 'S2']);
        self::assertSame([2, 2, 2, 2, 2, 1], self::of($store, 'S1'));
        self::assertSame([2, 11, 5.5, 4, 7, 2], self::of($store, 'S2'));
        self::change($book, $store, 'J-4', ['state' => 'doing']);
        self::change($book, $store, 'J-4', ['state' => 'done']);
        self::assertSame(1, self::of($store, 'S1')[0]);
        self::change($book, $store, 'J-2', ['ship' => null]);
        self::assertSame([0, 0, null, null, null, 0], self::of($store, 'S1'));
        self::recounted($book, $store);
    }

    public function test_rules_start_on_a_tally_and_a_child_sees_the_one_before(): void
    {
        $rules = [
            ['key' => 'busy', 'title' => 'Busy', 'on' => 'ship', 'starts' => [['changed' => ['jobs']]], 'changes' => [['set' => 'chief']], 'rows' => [['if' => [], 'then' => ['if jobs > 1 then "bo" else "ann"']]]],
            Desks::rule('see', ['created'], [['set' => 'other']], ['ship.jobs']),
        ];
        $book = self::book($rules);
        $store = self::store($book);
        self::create($book, $store, 'J-1', ['ship' => 'S1']);
        self::assertSame([0, 'ann'], [$store->find('J-1')?->value('other'), $store->find('S1')?->value('chief')]);
        self::create($book, $store, 'J-2', ['ship' => 'S1']);
        self::assertSame([1, 'bo'], [$store->find('J-2')?->value('other'), $store->find('S1')?->value('chief')]);
    }

    public function test_descendants_count_all_the_way_up(): void
    {
        $tree = self::tree([]);
        $tree['types'][0]['fields'][] = ['key' => 'above', 'label' => 'Above', 'type' => 'reference', 'to' => 'ship'];
        $tree['types'][0]['fields'][] = ['key' => 'below', 'label' => 'Below', 'type' => 'tally', 'of' => 'job', 'via' => 'ship', 'measure' => 'count', 'include' => 'descendants', 'tree' => 'above'];
        $tree['types'][0]['fields'][] = ['key' => 'most_below', 'label' => 'Most below', 'type' => 'tally', 'of' => 'job', 'via' => 'ship', 'measure' => 'max', 'field' => 'points', 'include' => 'descendants', 'tree' => 'above'];
        $book = RulebookBuilder::build($tree);
        $store = new InMemoryStore;
        foreach (['S1' => null, 'S2' => 'S1', 'S3' => 'S2', 'S9' => 'S9'] as $id => $above) {
            self::create($book, $store, $id, ['name' => $id] + ($above === null || $above === $id ? [] : ['above' => $above]), 'ship');
        }
        foreach (['J-1' => 'S3', 'J-2' => 'S3', 'J-3' => 'S2'] as $id => $ship) {
            self::create($book, $store, $id, ['ship' => $ship, 'points' => 10 * (int) substr($id, 2)]);
        }
        $below = fn (): array => array_map(fn (string $id): mixed => $store->find($id)?->value('below'), ['S1', 'S2', 'S3']);
        self::assertSame([3, 3, 2], $below());
        self::change($book, $store, 'J-1', ['ship' => 'S1']);
        self::assertSame([3, 2, 1], $below());
        self::recounted($book, $store);
        // a branch takes along what lies below it
        self::change($book, $store, 'J-2', ['ship' => 'S3']);
        self::change($book, $store, 'S3', ['above' => 'S9']);
        self::assertSame([2, 1, 1], $below());
        self::assertSame(1, $store->find('S9')?->value('below'));
        self::recounted($book, $store);
        self::change($book, $store, 'S3', ['above' => 'S2']);
        self::assertSame([3, 2, 1], $below());
        $circle = (new Cascade($book))->run(Event::changed('ship', 'S1', ['above' => 'S3'], 'ann', '2027-01-04T09:00:00'), $store)[0];
        self::assertStringContainsString('a tree has no circles', $circle->refused[0]['reason']);
        // a tree from before that goes round ends all the same
        $round = $store->find('S9');
        self::assertNotNull($round);
        $store->save($round->with('above', 'S9'));
        self::create($book, $store, 'J-9', ['ship' => 'S9']);
        self::assertSame(1, $store->find('S9')?->value('below'));
    }

    public function test_nobody_sets_a_tally(): void
    {
        $book = self::book();
        $outcome = (new Cascade($book))->run(Event::changed('ship', 'S1', ['jobs' => 7], 'ann', '2027-03-04T09:00:00'), self::store($book))[0];
        self::assertSame('Open jobs follows from other fields and cannot be set.', $outcome->refused[0]['reason']);
    }

    public function test_many_random_changes_leave_nothing_to_recount(): void
    {
        $book = self::book();
        $store = self::store($book);
        $random = new \Random\Randomizer(new \Random\Engine\Mt19937(7));
        for ($i = 0; $i < 400; $i++) {
            $id = 'J-'.$random->getInt(1, 30);
            $values = ['ship' => [null, 'S1', 'S2'][$random->getInt(0, 2)], 'points' => $random->getInt(0, 2) === 0 ? null : $random->getInt(0, 100) / 2, 'level' => ['low', 'mid', null][$random->getInt(0, 2)]];
            $store->find($id) === null ? self::create($book, $store, $id, array_filter($values, fn (mixed $v): bool => $v !== null)) : self::change($book, $store, $id, $values);
        }
        self::recounted($book, $store);
    }

    public function test_wrong_tallies_are_told(): void
    {
        $says = function (array $field): string {
            $tree = Desks::tree();
            $tree['types'][0]['fields'][] = $field + ['key' => 'x', 'label' => 'X', 'type' => 'tally', 'of' => 'job', 'via' => 'ship', 'measure' => 'count'];
            $tree['types'][1]['fields'][] = ['key' => 'gone', 'label' => 'Gone', 'type' => 'number', 'active' => false];
            try {
                RulebookBuilder::build($tree);
            } catch (InvalidInput $invalid) {
                return implode("\n", array_map(fn ($e): string => $e->path.' '.$e->message, $invalid->errors));
            }
            self::fail('It was taken.');
        };
        self::assertStringContainsString('/of There is no type "jobs"', $says(['of' => 'jobs']));
        self::assertStringContainsString('/via Job has no field "shop"; did you mean "ship"', $says(['via' => 'shop']));
        self::assertStringContainsString('Title does not refer to a ship', $says(['via' => 'title']));
        self::assertStringContainsString('"sum" needs "field"', $says(['measure' => 'sum']));
        self::assertStringContainsString('"field" means nothing', $says(['field' => 'points']));
        self::assertStringContainsString('Title is no number', $says(['measure' => 'average', 'field' => 'title']));
        self::assertStringContainsString('Gone is retired', $says(['measure' => 'sum', 'field' => 'gone']));
        self::assertStringContainsString('did you mean "done"', $says(['where' => 'state = "dine"']));
        self::assertStringContainsString('"today" is not one of them', $says(['where' => 'created_at < today()']));
        self::assertStringContainsString('derived field', $says(['where' => 'ship.chief = "ann"']));
        self::assertStringContainsString('"descendants" needs "tree"', $says(['include' => 'descendants']));
        self::assertStringContainsString('"default" means nothing', $says(['default' => '1']));
    }

    private static function recounted(Rulebook $book, InMemoryStore $store): void
    {
        $tallies = new Tallies($book);
        foreach (['S1', 'S2', 'S3'] as $id) {
            $ship = $store->find($id);
            foreach ($ship === null ? [] : $book->types['ship']->fields as $field) {
                if ($field->tally !== null && $ship !== null) {
                    self::assertTrue(Record::same($ship->value($field->key), $tallies->recount($field, $ship, $store)), $id.' '.$field->key);
                }
            }
        }
    }

    /** @return list<mixed> the tallies of a ship */
    private static function of(InMemoryStore $store, string $id): array
    {
        return array_map(fn (array $field): mixed => Record::plain($store->find($id)?->value($field['key'])), self::FIELDS);
    }

    /** @param  array<string, mixed>  $values */
    private static function create(Rulebook $book, InMemoryStore $store, string $id, array $values, string $type = 'job'): void
    {
        self::save((new Cascade($book))->run(Event::created($type, $id, $values, null, '2027-03-04T09:00:00'), $store), $store);
    }

    /** @param  array<string, mixed>  $values */
    private static function change(Rulebook $book, InMemoryStore $store, string $id, array $values): void
    {
        self::save((new Cascade($book))->run(Event::changed($store->find($id)->type ?? '', $id, $values, null, '2027-03-04T09:00:00'), $store), $store);
    }

    /** @param  non-empty-list<\Sorvel\Core\Engine\Outcome>  $outcomes */
    private static function save(array $outcomes, InMemoryStore $store): void
    {
        foreach ($outcomes as $outcome) {
            self::assertSame([], [...$outcome->refused, ...$outcome->problems]);
            $store->save($outcome->record);
        }
    }

    private static function store(Rulebook $book): InMemoryStore
    {
        $store = new InMemoryStore;
        foreach (['S1', 'S2'] as $id) {
            self::create($book, $store, $id, ['name' => $id], 'ship');
        }

        return $store;
    }

    /** @param  list<array<string, mixed>>  $rules */
    private static function book(array $rules = []): Rulebook
    {
        return RulebookBuilder::build(self::tree($rules));
    }

    /**
     * @param  list<array<string, mixed>>  $rules
     * @return array<string, mixed>
     */
    private static function tree(array $rules): array
    {
        $tree = Desks::tree($rules);
        array_push($tree['types'][0]['fields'], ...self::FIELDS);

        return $tree;
    }
}
