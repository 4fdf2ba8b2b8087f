<?php

declare(strict_types=1);

namespace Sorvel\Core\Tests\Mirror;

use PHPUnit\Framework\TestCase;
use Sorvel\Core\Engine\Cascade;
use Sorvel\Core\Engine\Event;
use Sorvel\Core\Engine\Outcome;
use Sorvel\Core\Format\InvalidInput;
use Sorvel\Core\Format\RulebookBuilder;
use Sorvel\Core\Model\InMemoryStore;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Tests\Desks;

final class MirrorTest extends TestCase
{
    private const CHIEF = ['key' => 'chief', 'on' => 'job', 'field' => 'assignee', 'from' => 'ship.chief'];

    public function test_always_keeps_a_field_equal_over_a_reference(): void
    {
        self::assertSame('ann', self::create([self::CHIEF], ['ship' => 'S1'])[0]->record->value('assignee'));
        self::assertSame('bo', self::change([self::CHIEF], ['ship' => 'S1', 'assignee' => 'ann'], ['ship' => 'S2'])[0]->record->value('assignee'));
        self::assertNull(self::change([self::CHIEF], ['ship' => 'S1', 'assignee' => 'ann'], ['ship' => null])[0]->record->value('assignee'));
        $refused = self::change([self::CHIEF], ['ship' => 'S1', 'assignee' => 'ann'], ['assignee' => 'bo'])[0]->refused;
        self::assertSame('Assignee is kept equal to ship.chief and cannot be set.', $refused[0]['reason']);
        $byRule = self::change([self::CHIEF], ['ship' => 'S1', 'assignee' => 'ann'], ['title' => 'x'], [Desks::rule('r', [['changed' => ['title']]], [['set' => 'assignee']], ['"bo"'])]);
        self::assertSame('ann', $byRule[0]->record->value('assignee'), 'a rule does not part them either');
    }

    public function test_a_change_of_the_source_is_a_change_of_the_follower_and_starts_rules_there(): void
    {
        $rules = [Desks::rule('r', [['changed' => ['assignee']]], [['set' => 'note']], ['"now " + assignee.name'])];
        $store = self::store(['J-1' => ['ship' => 'S1', 'assignee' => 'ann'], 'J-2' => ['ship' => 'S2', 'assignee' => 'bo']]);
        $outcomes = (new Cascade(self::book([self::CHIEF], $rules)))->run(Event::changed('ship', 'S1', ['chief' => 'bo'], 'ann', '2027-03-04T09:00:00'), $store);
        self::assertSame(['S1', 'J-1'], array_map(fn (Outcome $o): string => $o->record->id, $outcomes));
        self::assertSame(['bo', 'now Bo'], [$outcomes[1]->record->value('assignee'), $outcomes[1]->record->value('note')]);
    }

    public function test_fill_empty_leaves_what_is_there(): void
    {
        $mirror = ['mode' => 'fill_empty'] + self::CHIEF;
        self::assertSame('ann', self::create([$mirror], ['ship' => 'S1'])[0]->record->value('assignee'));
        self::assertSame('bo', self::create([$mirror], ['ship' => 'S1', 'assignee' => 'bo'])[0]->record->value('assignee'));
        self::assertSame('ann', self::change([$mirror], ['ship' => 'S2', 'assignee' => 'ann'], ['title' => 'x'])[0]->record->value('assignee'));
        $outcomes = (new Cascade(self::book([$mirror])))->run(Event::changed('ship', 'S1', ['chief' => 'bo'], 'ann', '2027-03-04T09:00:00'), self::store(['J-1' => ['ship' => 'S1', 'assignee' => 'ann']]));
        self::assertCount(1, $outcomes);
    }

    public function test_on_change_follows_a_change_and_stands_otherwise(): void
    {
        $mirror = ['mode' => 'on_change'] + self::CHIEF;
        self::assertSame('ann', self::create([$mirror], ['ship' => 'S1'])[0]->record->value('assignee'));
        self::assertSame('bo', self::change([$mirror], ['ship' => 'S1', 'assignee' => 'ann'], ['assignee' => 'bo'])[0]->record->value('assignee'), 'a person may part them');
        self::assertSame('bo', self::change([$mirror], ['ship' => 'S1', 'assignee' => 'bo'], ['title' => 'x'])[0]->record->value('assignee'));
        $outcomes = (new Cascade(self::book([$mirror])))->run(Event::changed('ship', 'S1', ['chief' => 'bo'], 'ann', '2027-03-04T09:00:00'), self::store(['J-1' => ['ship' => 'S1', 'assignee' => null], 'J-2' => ['ship' => 'S1', 'assignee' => 'ann']]));
        self::assertSame(['bo', 'bo'], array_map(fn (Outcome $o): mixed => $o->record->value('assignee'), array_slice($outcomes, 1)), 'until the source changes');
    }

    public function test_two_fields_are_kept_equal_both_ways_and_the_later_change_wins(): void
    {
        $both = [['key' => 'one', 'on' => 'job', 'field' => 'points', 'from' => 'other'], ['key' => 'two', 'on' => 'job', 'field' => 'other', 'from' => 'points']];
        $of = fn (array $outcomes): array => [$outcomes[0]->record->value('points'), $outcomes[0]->record->value('other')];
        self::assertSame([5, 5], $of(self::create($both, ['points' => 5])));
        self::assertSame([6, 6], $of(self::create($both, ['other' => 6])));
        self::assertSame([7, 7], $of(self::change($both, ['points' => 5, 'other' => 5], ['points' => 7])));
        self::assertSame([8, 8], $of(self::change($both, ['points' => 5, 'other' => 5], ['other' => 8])));
        self::assertSame([9, 9], $of(self::change($both, ['points' => 5, 'other' => 5], ['points' => 7, 'other' => 9])));
        self::assertSame([7, 7], $of(self::change($both, ['points' => 5, 'other' => 5], ['other' => 9, 'points' => 7])));
        self::assertSame([null, null], $of(self::change($both, ['points' => 5, 'other' => 5], ['other' => null])));
        $byRule = self::change($both, ['points' => 5, 'other' => 5], ['other' => 6], [Desks::rule('r', [['changed' => ['other']]], [['set' => 'points']], ['1'])]);
        self::assertSame([1, 1], $of($byRule), 'the rule came later');
        self::assertSame(['other', 'points', 'points', 'other'], array_column($byRule[0]->changes, 'field'), 'and there is no echo');
    }

    public function test_options_that_differ_go_through_a_table(): void
    {
        $table = ['key' => 'as_level', 'title' => 'As level', 'inputs' => [['key' => 'sure', 'field' => 'job.sure']], 'outputs' => [['key' => 'level', 'field' => 'job.level']], 'rows' => [['if' => ['true'], 'then' => ['"high"']], ['if' => ['false'], 'then' => ['"low"']]]];
        $tree = ['mirrors' => [['key' => 'm', 'on' => 'job', 'field' => 'level', 'from' => 'as_level(sure)']]] + Desks::tree([], [$table]);
        $outcome = (new Cascade(RulebookBuilder::build($tree)))->run(Event::created('job', 'J-1', ['sure' => true], null, '2027-03-04T09:00:00'), self::store([]))[0];
        self::assertSame('high', $outcome->record->value('level'));
    }

    public function test_what_does_not_fit_is_a_problem(): void
    {
        $outcome = self::create([['key' => 'm', 'on' => 'job', 'field' => 'code', 'from' => 'title']], ['title' => 'no code'])[0];
        self::assertNull($outcome->record->value('code'));
        self::assertStringContainsString('Code cannot follow', $outcome->problems[0]['message']);
        self::assertSame([], $outcome->refused);
    }

    public function test_wrong_mirrors_are_told(): void
    {
        $says = function (array ...$mirrors): string {
            try {
                self::book(array_map(fn (array $m): array => $m + ['key' => 'm', 'on' => 'job', 'field' => 'title', 'from' => 'note'], array_values($mirrors)));
            } catch (InvalidInput $invalid) {
                return implode("\n", array_map(fn ($e): string => $e->path.' '.$e->message, $invalid->errors));
            }
            self::fail('It was taken.');
        };
        self::assertStringContainsString('/mirrors/0/field Job has no field "titel"; did you mean "title"', $says(['field' => 'titel']));
        self::assertStringContainsString('/mirrors/0/from', $says(['from' => 'nota']));
        self::assertStringContainsString('cannot mirror itself', $says(['from' => 'title']));
        self::assertStringContainsString('kept by the desk itself', $says(['field' => 'number']));
        self::assertStringContainsString('already keeps this field', $says([], ['key' => 'n', 'from' => 'code']));
        self::assertStringContainsString('go in a circle', $says(['field' => 'title', 'from' => 'note'], ['key' => 'n', 'field' => 'note', 'from' => 'code'], ['key' => 'o', 'field' => 'code', 'from' => 'title']));
        self::assertStringContainsString('did you mean "high"', $says(['field' => 'level', 'from' => '"hihg"']));
    }

    /**
     * @param  list<array<string, mixed>>  $mirrors
     * @param  array<string, mixed>  $values
     * @return non-empty-list<Outcome>
     */
    private static function create(array $mirrors, array $values): array
    {
        return (new Cascade(self::book($mirrors)))->run(Event::created('job', 'J-1', $values, 'ann', '2027-03-04T09:00:00'), self::store([]));
    }

    /**
     * @param  list<array<string, mixed>>  $mirrors
     * @param  array<string, mixed>  $before
     * @param  array<string, mixed>  $values
     * @param  list<array<string, mixed>>  $rules
     * @return non-empty-list<Outcome>
     */
    private static function change(array $mirrors, array $before, array $values, array $rules = []): array
    {
        return (new Cascade(self::book($mirrors, $rules)))->run(Event::changed('job', 'J-1', $values, 'ann', '2027-03-04T09:00:00'), self::store(['J-1' => $before]));
    }

    /**
     * @param  list<array<string, mixed>>  $mirrors
     * @param  list<array<string, mixed>>  $rules
     */
    private static function book(array $mirrors, array $rules = []): \Sorvel\Core\Model\Rulebook
    {
        return RulebookBuilder::build(['mirrors' => $mirrors] + Desks::tree($rules));
    }

    /** @param  array<string, array<string, mixed>>  $jobs  values by id */
    private static function store(array $jobs): InMemoryStore
    {
        $store = new InMemoryStore;
        $store->save(new Record('S1', 'ship', ['name' => 'Alder', 'chief' => 'ann']));
        $store->save(new Record('S2', 'ship', ['name' => 'Ebb', 'chief' => 'bo']));
        foreach ($jobs as $id => $values) {
            $store->save(new Record($id, 'job', array_filter($values, fn (mixed $v): bool => $v !== null) + ['state' => 'new']));
        }

        return $store;
    }
}
