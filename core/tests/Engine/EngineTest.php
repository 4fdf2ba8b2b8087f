<?php

declare(strict_types=1);

namespace Sorvel\Core\Tests\Engine;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Sorvel\Core\Engine\RuleStatus;
use Sorvel\Core\Feel\Number;
use Sorvel\Core\Tests\Desks;

final class EngineTest extends TestCase
{
    public function test_a_rule_that_starts_on_creation_acts_once(): void
    {
        $outcome = Desks::create([Desks::rule('a', ['created'], [['set' => 'level']], ['"high"'])], ['title' => 'x']);

        self::assertSame('high', $outcome->record->value('level'));
        self::assertSame(['a' => RuleStatus::Acted], $outcome->rules());
        self::assertSame('new', $outcome->record->value('state'), 'a new ticket takes the first state');
    }

    public function test_the_values_of_a_creation_are_not_changes(): void
    {
        $outcome = Desks::create([Desks::rule('a', [['changed' => ['points']]], [['set' => 'level']], ['"high"'])], ['points' => 3]);

        self::assertSame([], $outcome->rules());
    }

    public function test_each_rule_sees_what_rules_above_it_changed(): void
    {
        $outcome = Desks::create([
            Desks::rule('first', ['created'], [['set' => 'points']], ['5']),
            Desks::rule('second', ['created'], [['set' => 'other']], ['points * 2']),
        ], []);

        self::assertSame(10, $outcome->record->value('other'));
    }

    public function test_a_rule_above_looks_again_when_a_rule_below_changed_its_field(): void
    {
        $outcome = Desks::create([
            Desks::rule('above', ['created', ['changed' => ['points']]], [['set' => 'other']], ['points']),
            Desks::rule('below', ['created'], [['set' => 'points']], ['7']),
        ], []);

        self::assertSame(7, $outcome->record->value('other'));
        self::assertSame([1, 2], array_column($outcome->trace['passes'], 'pass'));
        self::assertSame(['above'], array_column($outcome->trace['passes'][1]['rules'], 'rule'));
    }

    public function test_its_own_changes_never_make_a_rule_due_again(): void
    {
        $outcome = Desks::create([Desks::rule('own', ['created', ['changed' => ['points']]], [['set' => 'points']], ['(if points = null then 0 else points) + 1'])], []);

        self::assertSame(1, $outcome->record->value('points'));
        self::assertCount(1, $outcome->trace['passes']);
    }

    public function test_setting_the_value_that_is_there_is_no_change(): void
    {
        $outcome = Desks::change([
            Desks::rule('same', [['changed' => ['title']]], [['set' => 'points']], ['5']),
            Desks::rule('watcher', [['changed' => ['points']]], [['set' => 'level']], ['"high"']),
        ], ['points' => 5, 'title' => 'a'], ['title' => 'b']);

        self::assertSame(['same' => RuleStatus::NoEffect], $outcome->rules());
    }

    public function test_two_rules_in_a_circle_are_stopped_and_named(): void
    {
        $outcome = Desks::create([
            Desks::rule('up', ['created', ['changed' => ['points']]], [['set' => 'points']], ['1']),
            Desks::rule('down', ['created', ['changed' => ['points']]], [['set' => 'points']], ['2']),
            Desks::rule('bystander', ['created'], [['set' => 'level']], ['"low"']),
        ], []);

        self::assertSame(['up', 'down'], $outcome->trace['circle']);
        self::assertSame(['up', 'down'], array_column($outcome->problems, 'rule'));
        self::assertSame(2, $outcome->record->value('points'), 'the values at the end of the first pass of the circle stand');
        self::assertSame('low', $outcome->record->value('level'), 'the save goes on');
        self::assertFalse($outcome->isRefused());
    }

    public function test_a_record_that_never_repeats_is_stopped_after_ten_passes(): void
    {
        $outcome = Desks::create([
            Desks::rule('one', ['created', ['changed' => ['other']]], [['set' => 'points']], ['if other = null then 1 else other + 1']),
            Desks::rule('two', ['created', ['changed' => ['points']]], [['set' => 'other']], ['points + 1']),
        ], []);

        self::assertSame(['one', 'two'], $outcome->trace['circle']);
        self::assertCount(10, $outcome->trace['passes']);
        self::assertSame(1, $outcome->record->value('points'), 'the values after the first pass stand');
    }

    public function test_a_rule_that_only_looked_again_is_no_circle(): void
    {
        $outcome = Desks::create([
            Desks::rule('above', ['created', ['changed' => ['points']]], [['set' => 'level']], ['"mid"']),
            Desks::rule('below', ['created'], [['set' => 'points']], ['7']),
        ], []);

        self::assertNull($outcome->trace['circle']);
        self::assertSame([], $outcome->problems);
    }

    public function test_from_and_to_limit_a_start(): void
    {
        $rule = Desks::rule('a', [['changed' => ['level'], 'from' => '"low"', 'to' => 'not("high")']], [['set' => 'sure']], ['true']);

        self::assertTrue(Desks::change([$rule], ['level' => 'low'], ['level' => 'mid'])->record->value('sure'));
        self::assertNull(Desks::change([$rule], ['level' => 'low'], ['level' => 'high'])->record->value('sure'));
        self::assertNull(Desks::change([$rule], ['level' => 'high'], ['level' => 'mid'])->record->value('sure'));
    }

    public function test_only_if_anything_but_yes_keeps_a_rule_still(): void
    {
        $rule = Desks::rule('a', ['created'], [['set' => 'level']], ['"high"'], ['only_if' => 'points > 3']);

        self::assertSame(RuleStatus::Acted, Desks::create([$rule], ['points' => 4])->rules()['a']);
        self::assertSame(RuleStatus::Looked, Desks::create([$rule], ['points' => 3])->rules()['a']);
        self::assertSame(RuleStatus::Looked, Desks::create([$rule], [])->rules()['a'], 'unknown is not yes');
    }

    public function test_the_first_row_that_fits_decides(): void
    {
        $rule = Desks::rule('a', ['created'], [['set' => 'level'], ['add' => 'tags']], [], ['checks' => [['of' => 'points']], 'rows' => [
            ['if' => ['> 50'], 'then' => ['"high"', '"hot"']], ['if' => ['> 10'], 'then' => ['"mid"', '-']], ['if' => ['-'], 'then' => ['"low"', '-']],
        ]]);

        $outcome = Desks::create([$rule], ['points' => 60]);
        self::assertSame('high', $outcome->record->value('level'));
        self::assertSame(['hot'], $outcome->record->value('tags'));
        self::assertSame('mid', Desks::create([$rule], ['points' => 11])->record->value('level'));
        self::assertSame('low', Desks::create([$rule], [])->record->value('level'));
        self::assertSame([['row' => 0, 'fits' => false], ['row' => 1, 'fits' => true]], array_map(fn (array $r): array => ['row' => $r['row'], 'fits' => $r['fits']], Desks::create([$rule], ['points' => 11])->trace['passes'][0]['rules'][0]['rows']));
    }

    public function test_every_matching_row_acts_and_the_later_one_stands(): void
    {
        $rule = Desks::rule('a', ['created'], [['set' => 'level'], ['add' => 'tags']], [], ['decide' => 'every', 'checks' => [['of' => 'points']], 'rows' => [
            ['if' => ['-'], 'then' => ['"low"', '"all"']], ['if' => ['> 10'], 'then' => ['"mid"', '"ten"']], ['if' => ['> 90'], 'then' => ['"high"', '"ninety"']],
        ]]);
        $outcome = Desks::create([$rule], ['points' => 20]);

        self::assertSame('mid', $outcome->record->value('level'));
        self::assertSame(['all', 'ten'], $outcome->record->value('tags'));
        self::assertSame(['low', 'mid'], array_values(array_filter(array_map(fn (array $c): mixed => $c['field'] === 'level' ? $c['after'] : null, $outcome->changes))), 'the trace shows both');
    }

    /** @return iterable<string, array{string, string, mixed, string, mixed}> */
    public static function whens(): iterable
    {
        yield 'always replaces' => ['level', 'always', 'low', '"high"', 'high'];
        yield 'always empties' => ['level', 'always', 'low', 'null', null];
        yield 'empty fills' => ['level', 'empty', null, '"high"', 'high'];
        yield 'empty keeps' => ['level', 'empty', 'low', '"high"', 'low'];
        yield 'empty never empties' => ['level', 'empty', 'low', 'null', 'low'];
        yield 'higher takes the higher option' => ['level', 'higher', 'low', '"mid"', 'mid'];
        yield 'higher keeps the higher option' => ['level', 'higher', 'high', '"mid"', 'high'];
        yield 'higher fills' => ['level', 'higher', null, '"mid"', 'mid'];
        yield 'higher never empties' => ['points', 'higher', 3, 'null', 3];
        yield 'higher number' => ['points', 'higher', 3, '3.5', '3.5'];
        yield 'lower number' => ['points', 'lower', 3, '2', 2];
        yield 'lower keeps the lower number' => ['points', 'lower', 3, '4', 3];
        yield 'lower option' => ['level', 'lower', 'high', '"mid"', 'mid'];
    }

    #[DataProvider('whens')]
    public function test_when_a_set_replaces(string $field, string $when, mixed $before, string $cell, mixed $after): void
    {
        $rule = Desks::rule('a', [['changed' => ['title']]], [['set' => $field, 'when' => $when]], [$cell]);
        $outcome = Desks::change([$rule], $before === null ? [] : [$field => $before], ['title' => 'go']);
        $value = $outcome->record->value($field);

        self::assertSame($after, $value instanceof \Brick\Math\BigDecimal ? Number::text($value) : $value);
        self::assertSame([], $outcome->problems);
    }

    public function test_adding_to_a_list_never_drops_what_is_in_it(): void
    {
        $add = fn (string $cell): mixed => Desks::change([Desks::rule('a', [['changed' => ['title']]], [['add' => 'tags']], [$cell])], ['tags' => ['old']], ['title' => 'go'])->record->value('tags');

        self::assertSame(['old', 'new'], $add('"new"'));
        self::assertSame(['old', 'a', 'b'], $add('["a", "old", "b"]'));
        self::assertSame(['old'], $add('null'));
    }

    public function test_clear_empties_on_yes(): void
    {
        $clear = fn (string $cell): mixed => Desks::change([Desks::rule('a', [['changed' => ['title']]], [['clear' => 'points']], [$cell])], ['points' => 4], ['title' => 'go'])->record->value('points');

        self::assertNull($clear('true'));
        self::assertSame(4, $clear('false'));
        self::assertSame(4, $clear('level = "low"'));
    }

    /** @return iterable<string, array{array<string, string>, string, string}> */
    public static function misfits(): iterable
    {
        yield 'out of bounds' => [['set' => 'points'], '100.1', 'more than 100'];
        yield 'a percent past a hundred' => [['set' => 'share'], '101', 'more than 100'];
        yield 'wrong type' => [['set' => 'points'], 'title', 'must be a number'];
        yield 'unknown option' => [['set' => 'level'], 'title', 'not an option'];
        yield 'option out of use' => [['set' => 'level'], '"old"', 'no longer in use'];
        yield 'inactive person' => [['set' => 'assignee'], '"gone"', 'no longer active'];
        yield 'no such record' => [['set' => 'ship'], 'title', 'there is no Ship'];
        yield 'no such move' => [['set' => 'state'], '"done"', 'no move'];
        yield 'not a tag' => [['add' => 'tags'], '"two words"', 'not a tag'];
        yield 'against the pattern' => [['set' => 'code'], '"x"', 'does not have the form'];
    }

    /** @param  array<string, string>  $change */
    #[DataProvider('misfits')]
    public function test_what_does_not_fit_is_a_problem_and_the_row_goes_on(array $change, string $cell, string $says): void
    {
        $outcome = Desks::change([Desks::rule('a', [['changed' => ['title']]], [$change, ['set' => 'sure']], [$cell, 'true'])], ['title' => 'a'], ['title' => 'go']);

        self::assertCount(1, $outcome->problems);
        self::assertSame('a', $outcome->problems[0]['rule']);
        self::assertStringContainsString($says, $outcome->problems[0]['message']);
        self::assertTrue($outcome->record->value('sure'), 'other changes of the row go on');
        self::assertSame(RuleStatus::Problem, $outcome->rules()['a']);
        self::assertFalse($outcome->isRefused(), 'a rule never costs a person their save');
    }

    public function test_a_formula_that_fails_gives_nothing_and_a_warning(): void
    {
        $outcome = Desks::create([Desks::rule('a', ['created'], [['set' => 'points']], ['1 / 0'])], []);
        $change = $outcome->trace['passes'][0]['rules'][0]['changes'][0];

        self::assertNull($outcome->record->value('points'));
        self::assertStringContainsString('zero', $change['warnings'][0]['message']);
        self::assertSame([], $outcome->problems);
    }

    public function test_a_rule_rounds_where_a_person_is_told(): void
    {
        $outcome = Desks::create([Desks::rule('a', ['created'], [['set' => 'points']], ['10 / 3'])], []);
        self::assertSame([3.3], array_column(array_filter($outcome->changes, fn (array $c): bool => $c['field'] === 'points'), 'after'));
        $refused = Desks::create([], ['points' => 3.33]);
        self::assertSame('points', $refused->refused[0]['field']);
    }

    public function test_look_ups_are_found_once_and_only_when_read(): void
    {
        $rule = Desks::rule('a', ['created'], [['set' => 'assignee'], ['set' => 'team']], ['chief', 'chief.team'], ['look_ups' => [['name' => 'chief', 'value' => 'ship.chief'], ['name' => 'unread', 'value' => 'points']]]);
        $outcome = Desks::create([$rule], ['ship' => 'S1']);
        $found = $outcome->trace['passes'][0]['rules'][0]['look_ups'];

        self::assertSame('ann', $outcome->record->value('assignee'));
        self::assertSame('crew', $outcome->record->value('team'));
        self::assertSame(['chief'], array_column($found, 'name'));
        self::assertSame(['ship' => 'S1', 'ship.chief' => 'ann'], $found[0]['reads']);
    }

    public function test_a_look_up_that_finds_nothing_does_what_it_says(): void
    {
        $with = fn (mixed $none) => Desks::create([Desks::rule('a', ['created'], [['set' => 'sure'], ['set' => 'assignee']], ['true', 'chief'], ['look_ups' => [['name' => 'chief', 'value' => 'ship.chief', ...($none === null ? [] : ['none' => $none])]]])], []);

        self::assertTrue($with(null)->record->value('sure'));
        self::assertNull($with(null)->record->value('assignee'));
        self::assertNull($with('skip_rule')->record->value('sure'), 'nothing is half done');
        self::assertSame(RuleStatus::Looked, $with('skip_rule')->rules()['a']);
        self::assertSame(['a'], array_column($with('problem')->problems, 'rule'));
        self::assertNull($with('problem')->record->value('sure'));
        self::assertSame('bo', $with(['use' => '"bo"'])->record->value('assignee'));
    }

    public function test_was_changed_and_event_are_in_scope(): void
    {
        $outcome = Desks::change([Desks::rule('a', [['changed' => ['points']]], [['set' => 'other'], ['set' => 'sure'], ['set' => 'requester']], ['points - was.points', 'changed("points") and not(changed("title"))', 'event.by'])], ['points' => 4], ['points' => 10]);

        self::assertSame(6, $outcome->record->value('other'));
        self::assertTrue($outcome->record->value('sure'));
        self::assertSame('bo', $outcome->record->value('requester'));
    }

    public function test_incoming_values_are_all_judged_before_anything_runs(): void
    {
        $outcome = Desks::change([Desks::rule('a', [['changed' => ['title']]], [['set' => 'sure']], ['true'])], ['title' => 'a'], ['title' => 'b', 'points' => 'many', 'nothing_such' => 1, 'state' => 'done', 'number' => 'J-9']);

        self::assertTrue($outcome->isRefused());
        self::assertSame(['points', 'nothing_such', 'state', 'number'], array_column($outcome->refused, 'field'));
        self::assertSame('a', $outcome->record->value('title'), 'nothing is changed');
        self::assertSame([], $outcome->rules(), 'no rule has run');
    }

    public function test_a_state_is_moved_along_allowed_moves_only(): void
    {
        self::assertFalse(Desks::change([], [], ['state' => 'doing'])->isRefused());
        self::assertTrue(Desks::change([], [], ['state' => 'done'])->isRefused());
        self::assertTrue(Desks::change([], [], ['state' => null])->isRefused());
    }

    public function test_if_the_engine_itself_fails_the_save_goes_through_and_says_so(): void
    {
        // a store that breaks only when a rule follows the reference
        $store = new class implements \Sorvel\Core\Model\RecordStore
        {
            public int $reads = 0;

            public function find(string $id): \Sorvel\Core\Model\Record
            {
                return ++$this->reads > 1 ? throw new \RuntimeException('the store is gone') : new \Sorvel\Core\Model\Record($id, 'ship', []);
            }

            public function findMany(array $ids): array
            {
                return [];
            }

            public function referring(string $type, string $field, array $ids): array
            {
                return [];
            }

            public function matching(string $type, array $conditions): array
            {
                return [];
            }

            public function foresee(string $type, string $field, array $values): void
            {
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

            public function hold(array $ids): void
            {
            }

            public function peek(array $ids): iterable
            {
                return [];
            }

            public function named(\Sorvel\Core\Model\RecordType $type, string $name): array
            {
                return [];
            }

            public function delete(string $id): void
            {
            }

            public function save(\Sorvel\Core\Model\Record $record): void
            {
            }

            public function newId(\Sorvel\Core\Model\RecordType $type): string
            {
                return 'J-1';
            }
        };
        $engine = new \Sorvel\Core\Engine\Engine(Desks::rulebook([Desks::rule('a', ['created'], [['set' => 'assignee']], ['ship.chief'])]));
        $outcome = $engine->handle(\Sorvel\Core\Engine\Event::created('job', 'J-1', ['title' => 'kept', 'ship' => 'S1'], null, '2027-01-04T09:00:00'), $store);

        self::assertSame('kept', $outcome->record->value('title'));
        self::assertStringContainsString('without rules', $outcome->problems[0]['message']);
    }
}
