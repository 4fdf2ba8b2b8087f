<?php

declare(strict_types=1);

namespace Sorvel\Core\Tests\Engine;

use PHPUnit\Framework\TestCase;
use Sorvel\Core\Engine\Cascade;
use Sorvel\Core\Engine\Event;
use Sorvel\Core\Engine\Outcome;
use Sorvel\Core\Finding\KnownType;
use Sorvel\Core\Format\InvalidInput;
use Sorvel\Core\Format\RulebookBuilder;
use Sorvel\Core\Model\InMemoryStore;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\Rulebook;
use Sorvel\Core\Tests\Desks;

/** Derived fields on the record itself, and over references to others. */
final class DerivedTest extends TestCase
{
    private const FIELDS = [
        // the second reads the first, though it stands before it
        ['key' => 'grade', 'label' => 'Grade', 'type' => 'derived', 'formula' => 'if worth > 50 then "big" else "small"'],
        ['key' => 'worth', 'label' => 'Worth', 'type' => 'derived', 'formula' => 'if points = null then null else points * 2'],
        ['key' => 'boss', 'label' => 'Boss', 'type' => 'derived', 'formula' => 'ship.chief'],
        ['key' => 'call', 'label' => 'Call', 'type' => 'derived', 'formula' => 'title + " on " + ship.name'],
    ];

    public function test_they_follow_before_the_first_rule_and_after_each(): void
    {
        $rules = [
            Desks::rule('a', ['created'], [['set' => 'note']], ['grade']),
            Desks::rule('b', ['created'], [['set' => 'points']], ['40']),
            Desks::rule('c', [['changed' => ['worth']]], [['set' => 'code']], ['if grade = "big" then "AB-1" else null']),
        ];
        $outcome = self::handle(self::book($rules), Event::created('job', 'J-1', ['points' => 10], 'ann', '2027-03-04T09:00:00'), self::store())[0];
        self::assertSame(['small', 80, 'big', 'AB-1'], array_map($outcome->record->value(...), ['note', 'worth', 'grade', 'code']));
        self::assertSame([], $outcome->problems);
    }

    public function test_they_behave_as_what_they_are(): void
    {
        $fields = self::book()->types['job']->fields;
        self::assertSame(['number', 'text', 'person', 'text'], array_map(fn (string $key): string => KnownType::ofField($fields[$key], [])->what, ['worth', 'grade', 'boss', 'call']));
        $outcome = self::handle(self::book([Desks::rule('a', ['created'], [['set' => 'note']], ['boss.name + " " + string(worth + 1)'])]), Event::created('job', 'J-1', ['ship' => 'S1', 'points' => 4], 'ann', '2027-03-04T09:00:00'), self::store())[0];
        self::assertSame('Ann 9', $outcome->record->value('note'));
        self::assertSame('ann', $outcome->record->value('boss'), 'people are kept by key');
    }

    public function test_nobody_sets_them(): void
    {
        $outcome = self::handle(self::book(), Event::created('job', 'J-1', ['worth' => 5], 'ann', '2027-03-04T09:00:00'), self::store())[0];
        self::assertSame('Worth follows from other fields and cannot be set.', $outcome->refused[0]['reason']);
        $this->expectException(InvalidInput::class);
        $this->expectExceptionMessage('a rule cannot change it');
        self::book([Desks::rule('a', ['created'], [['set' => 'worth']], ['5'])]);
    }

    public function test_what_they_take_over_from_another_record_follows_in_the_same_save(): void
    {
        $book = self::book([Desks::rule('r', [['changed' => ['boss']]], [['set' => 'assignee']], ['boss'])]);
        $store = self::store();
        foreach (['J-1' => 'S1', 'J-2' => 'S1', 'J-3' => 'S2'] as $id => $ship) {
            $store->save(self::handle($book, Event::created('job', $id, ['title' => $id, 'ship' => $ship], null, '2027-03-04T09:00:00'), $store)[0]->record);
        }
        $outcomes = self::handle($book, Event::changed('ship', 'S1', ['chief' => 'bo', 'name' => 'Alder II'], 'ann', '2027-03-05T09:00:00'), $store);

        self::assertSame(['S1', 'J-1', 'J-2'], array_map(fn (Outcome $o): string => $o->record->id, $outcomes));
        self::assertSame(['bo', 'bo', 'J-1 on Alder II'], array_map($outcomes[1]->record->value(...), ['boss', 'assignee', 'call']));
        self::assertSame(['call', 'boss', 'assignee'], array_values(array_unique(array_column([$outcomes[1]->changes[1], $outcomes[1]->changes[0], $outcomes[1]->changes[2]], 'field'))));
        self::assertSame('ann', $store->find('J-1')?->value('boss'), 'the store is the caller’s to write');
        self::assertCount(1, self::handle($book, Event::changed('ship', 'S2', ['chief' => 'bo'], 'ann', '2027-03-05T09:00:00'), $store), 'who was it already has nothing to follow');
    }

    public function test_a_chain_of_references_is_followed(): void
    {
        $tree = self::tree([]);
        $tree['types'][0]['fields'][] = ['key' => 'sister', 'label' => 'Sister', 'type' => 'reference', 'to' => 'ship'];
        $tree['types'][1]['fields'][] = ['key' => 'far', 'label' => 'Far', 'type' => 'derived', 'formula' => 'ship.sister.chief.name'];
        $book = RulebookBuilder::build($tree);
        $store = self::store();
        $store->save(new Record('S1', 'ship', ['name' => 'Alder', 'sister' => 'S2']));
        $store->save(self::handle($book, Event::created('job', 'J-1', ['ship' => 'S1'], null, '2027-03-04T09:00:00'), $store)[0]->record);
        self::assertSame('Bo', $store->find('J-1')?->value('far'));
        self::assertSame('Ann', self::handle($book, Event::changed('ship', 'S2', ['chief' => 'ann'], null, '2027-03-04T09:00:00'), $store)[1]->record->value('far'));
        self::assertNull(self::handle($book, Event::changed('ship', 'S1', ['sister' => null], null, '2027-03-04T09:00:00'), $store)[1]->record->value('far'));
    }

    public function test_records_that_follow_each_other_in_a_row_without_end_are_left_alone(): void
    {
        $tree = Desks::tree();
        $tree['types'][0]['fields'][] = ['key' => 'next', 'label' => 'Next', 'type' => 'reference', 'to' => 'ship'];
        $tree['types'][0]['fields'][] = ['key' => 'rank', 'label' => 'Rank', 'type' => 'number'];
        $tree['types'][0]['fields'][] = ['key' => 'above', 'label' => 'Above', 'type' => 'derived', 'formula' => 'if next.rank = null then null else next.rank + 1'];
        $tree['rules'] = [['key' => 'r', 'title' => 'R', 'on' => 'ship', 'starts' => [['changed' => ['above']]], 'changes' => [['set' => 'rank']], 'rows' => [['if' => [], 'then' => ['above']]]]];
        $book = RulebookBuilder::build($tree);
        $store = new InMemoryStore;
        for ($i = 1; $i <= 9; $i++) {
            $store->save(new Record('S'.$i, 'ship', ['name' => 'S'.$i, 'rank' => 0] + ($i > 1 ? ['next' => 'S'.($i - 1)] : [])));
        }
        $outcomes = self::handle($book, Event::changed('ship', 'S1', ['rank' => 7], null, '2027-03-04T09:00:00'), $store);
        self::assertCount(1, $outcomes, 'nothing is half done');
        self::assertSame(7, $outcomes[0]->record->value('rank'), 'and the save goes on');
        self::assertStringContainsString('more than 5 in a row', $outcomes[0]->problems[0]['message']);
        $store->save(new Record('S5', 'ship', ['name' => 'S5', 'rank' => 0]));
        self::assertCount(4, self::handle($book, Event::changed('ship', 'S1', ['rank' => 7], null, '2027-03-04T09:00:00'), $store));
    }

    public function test_wrong_definitions_are_told(): void
    {
        $says = function (array ...$fields): string {
            $tree = Desks::tree();
            array_push($tree['types'][1]['fields'], ...array_map(fn (array $f): array => $f + ['label' => 'X', 'type' => 'derived'], $fields));
            try {
                RulebookBuilder::build($tree);
            } catch (InvalidInput $invalid) {
                return implode("\n", array_map(fn ($e): string => $e->path.' '.$e->message, $invalid->errors));
            }
            self::fail('It was taken.');
        };
        self::assertStringContainsString('/formula This field reads itself.', $says(['key' => 'x', 'formula' => 'x + 1']));
        self::assertStringContainsString('by way of job.', $says(['key' => 'x', 'formula' => 'y + 1'], ['key' => 'y', 'formula' => 'x + 1']));
        self::assertStringContainsString('did you mean "points"', $says(['key' => 'x', 'formula' => 'pionts + 1']));
        self::assertStringContainsString('"today" is not one of them', $says(['key' => 'x', 'formula' => 'today()']));
        self::assertStringContainsString('needs "formula"', $says(['key' => 'x']));
        self::assertStringContainsString('"default" means nothing', $says(['key' => 'x', 'formula' => 'points', 'default' => '1']));
        self::assertStringContainsString('"formula" means nothing', $says(['key' => 'x', 'type' => 'text', 'formula' => 'points']));
    }

    /**
     * @return non-empty-list<Outcome>
     */
    private static function handle(Rulebook $book, Event $event, InMemoryStore $store): array
    {
        return (new Cascade($book))->run($event, $store);
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
        array_push($tree['types'][1]['fields'], ...self::FIELDS);

        return $tree;
    }

    private static function store(): InMemoryStore
    {
        $store = new InMemoryStore;
        $store->save(new Record('S1', 'ship', ['name' => 'Alder', 'chief' => 'ann']));
        $store->save(new Record('S2', 'ship', ['name' => 'Ebb', 'chief' => 'bo']));

        return $store;
    }
}
