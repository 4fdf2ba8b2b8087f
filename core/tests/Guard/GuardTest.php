<?php

declare(strict_types=1);

namespace Sorvel\Core\Tests\Guard;

use PHPUnit\Framework\TestCase;
use Sorvel\Core\Engine\Engine;
use Sorvel\Core\Engine\Event;
use Sorvel\Core\Engine\Outcome;
use Sorvel\Core\Format\InvalidInput;
use Sorvel\Core\Format\RulebookBuilder;
use Sorvel\Core\Format\SchemaCheck;
use Sorvel\Core\Model\InMemoryStore;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Tests\Desks;

final class GuardTest extends TestCase
{
    private const LOCK = ['key' => 'lock', 'on' => 'job', 'field' => 'level', 'effect' => 'read_only', 'when' => 'state = "doing"', 'reason' => 'The level is fixed while work is under way.'];

    private const OWN_SHIP = ['key' => 'own_ship', 'on' => 'job', 'field' => 'ship', 'effect' => 'choices', 'only' => 'chief = record.assignee'];

    public function test_a_read_only_field_turns_the_save_down_and_says_why(): void
    {
        $outcome = self::change([self::LOCK], ['state' => 'doing', 'level' => 'low'], ['level' => 'high', 'title' => 'x']);
        self::assertSame([['field' => 'level', 'reason' => 'Level: The level is fixed while work is under way.']], $outcome->refused);
        self::assertSame(['lock'], $outcome->guards);
        self::assertSame('low', $outcome->record->value('level'));

        self::assertSame([], self::change([self::LOCK], ['state' => 'doing', 'level' => 'low'], ['level' => 'low', 'title' => 'x'])->refused, 'the same value is no change');
        self::assertSame([], self::change([self::LOCK], ['state' => 'new', 'level' => 'low'], ['level' => 'high', 'state' => 'doing'])->refused, 'what counts is the record before');
    }

    public function test_rules_are_not_held_to_it(): void
    {
        $outcome = self::change([self::LOCK], ['state' => 'doing', 'level' => 'low'], ['title' => 'x'], [Desks::rule('r', [['changed' => ['title']]], [['set' => 'level']], ['"high"'])]);
        self::assertSame(['high', []], [$outcome->record->value('level'), $outcome->refused]);
    }

    public function test_a_hidden_field_takes_nothing_from_people(): void
    {
        $guard = ['key' => 'hide', 'on' => 'job', 'field' => 'code', 'effect' => 'hidden', 'when' => 'not(sure)'];
        self::assertStringContainsString('it is not in use while not(sure)', self::create([$guard], ['sure' => false, 'code' => 'AB-1'])->refused[0]['reason']);
        self::assertSame([], self::create([$guard], ['sure' => true, 'code' => 'AB-1'])->refused);
    }

    public function test_required_is_judged_on_the_settled_record(): void
    {
        $guard = ['key' => 'say', 'on' => 'job', 'field' => 'note', 'effect' => 'required', 'when' => 'state = "done"', 'reason' => 'Say what was done.'];
        self::assertSame([['field' => 'note', 'reason' => 'Note: Say what was done.']], self::change([$guard], ['state' => 'doing'], ['state' => 'done'])->refused);
        self::assertSame([], self::change([$guard], ['state' => 'doing'], ['state' => 'done', 'note' => 'x'])->refused);
        self::assertSame([], self::change([$guard], ['state' => 'doing'], ['state' => 'done'], [Desks::rule('r', [['changed' => ['state']]], [['set' => 'note']], ['"by rule"'])])->refused, 'a rule may fill it');
        self::assertSame([['field' => 'note', 'reason' => 'Note: Say what was done.']], self::change([$guard], ['state' => 'doing', 'note' => 'x'], ['title' => 'y'], [Desks::rule('r', [['changed' => ['title']]], [['set' => 'state'], ['set' => 'note']], ['"done"', 'null'])])->refused, 'a rule may not empty it');
    }

    public function test_limited_references_follow_their_parent(): void
    {
        self::assertStringContainsString('one of the choices that remain', self::create([self::OWN_SHIP], ['assignee' => 'ann', 'ship' => 'S2'])->refused[0]['reason']);
        self::assertSame([], self::create([self::OWN_SHIP], ['assignee' => 'ann', 'ship' => 'S1'])->refused, 'both come in at once');

        $before = ['state' => 'new', 'assignee' => 'ann', 'ship' => 'S1'];
        $cleared = self::change([self::OWN_SHIP], $before, ['assignee' => 'bo']);
        self::assertSame([null, [], ['own_ship']], [$cleared->record->value('ship'), $cleared->refused, $cleared->guards]);
        self::assertSame(['assignee', 'ship'], array_column($cleared->changes, 'field'));
        self::assertSame('S1', self::change([['on_parent_change' => 'keep'] + self::OWN_SHIP], $before, ['assignee' => 'bo'])->record->value('ship'));
        self::assertSame('ship', self::change([['on_parent_change' => 'refuse'] + self::OWN_SHIP], $before, ['assignee' => 'bo'])->refused[0]['field']);
        self::assertSame('S2', self::change([self::OWN_SHIP], $before, ['assignee' => 'bo', 'ship' => 'S2'])->record->value('ship'));
    }

    public function test_rules_are_held_to_limited_choices(): void
    {
        $outcome = self::change([['reason' => 'Only ships of the assignee.'] + self::OWN_SHIP], ['state' => 'new', 'assignee' => 'ann'], ['title' => 'x'], [Desks::rule('r', [['changed' => ['title']]], [['set' => 'ship'], ['set' => 'note']], ['"S2"', '"n"'])]);
        self::assertNull($outcome->record->value('ship'));
        self::assertSame(['r', 'ship', 'Ship was not set: Only ships of the assignee.'], array_values($outcome->problems[0]));
        self::assertSame('n', $outcome->record->value('note'), 'the other changes of the row go on');

        $moved = self::change([self::OWN_SHIP], ['state' => 'new', 'assignee' => 'ann', 'ship' => 'S1'], ['title' => 'x'], [
            Desks::rule('r', [['changed' => ['title']]], [['set' => 'assignee']], ['"bo"']),
            Desks::rule('s', [['changed' => ['ship']]], [['set' => 'note']], ['if ship = null then "no ship" else "a ship"']),
        ]);
        self::assertSame([null, 'no ship'], [$moved->record->value('ship'), $moved->record->value('note')], 'it follows before the next rule looks');
        $kept = self::change([['on_parent_change' => 'refuse'] + self::OWN_SHIP], ['state' => 'new', 'assignee' => 'ann', 'ship' => 'S1'], ['title' => 'x'], [Desks::rule('r', [['changed' => ['title']]], [['set' => 'assignee']], ['"bo"'])]);
        self::assertSame('ship', $kept->refused[0]['field']);
    }

    public function test_limited_options(): void
    {
        $guard = ['key' => 'calm', 'on' => 'job', 'field' => 'level', 'effect' => 'choices', 'when' => 'not(sure)', 'only' => 'key != "high" or record.points > 50', 'reason' => 'Only a sure one is high.'];
        self::assertSame('Level: Only a sure one is high.', self::create([$guard], ['sure' => false, 'level' => 'high', 'points' => 5])->refused[0]['reason']);
        foreach ([['sure' => true, 'level' => 'high'], ['sure' => false, 'level' => 'high', 'points' => 80], ['sure' => false, 'level' => 'mid']] as $values) {
            self::assertSame([], self::create([$guard], $values)->refused);
        }
    }

    public function test_the_trace_tells_the_guards_in_force(): void
    {
        $outcome = self::change([self::LOCK, self::OWN_SHIP], ['state' => 'doing'], ['title' => 'x']);
        self::assertSame([['guard' => 'lock', 'field' => 'level', 'effect' => 'read_only', 'reason' => self::LOCK['reason'], 'tripped' => false], ['guard' => 'own_ship', 'field' => 'ship', 'effect' => 'choices', 'reason' => null, 'tripped' => false]], $outcome->trace['guards']);
    }

    public function test_wrong_guards_are_told(): void
    {
        $says = function (array $guard): string {
            $tree = Desks::tree() + ['guards' => [$guard + ['key' => 'g', 'on' => 'job', 'field' => 'level', 'effect' => 'choices']]];
            try {
                RulebookBuilder::build($tree);
            } catch (InvalidInput $invalid) {
                return implode("\n", array_map(fn ($e): string => $e->path.' '.$e->message, $invalid->errors));
            }
            self::fail('It was taken.');
        };
        self::assertStringContainsString('/guards/0 Limited choices need "only"', $says([]));
        self::assertStringContainsString('/guards/0/field Job has no field "levle"; did you mean "level"?', $says(['field' => 'levle', 'only' => 'true']));
        self::assertStringContainsString('did you mean "high"', $says(['only' => 'key = "hihg"']));
        self::assertStringContainsString('did you mean "chief"', $says(['field' => 'ship', 'only' => 'chef = record.assignee']));
        self::assertStringContainsString('/only "only" means something for the effect choices only', $says(['effect' => 'hidden', 'only' => 'sure']));
        self::assertStringContainsString('no list of choices', $says(['field' => 'points', 'only' => 'key = "x"']));
        self::assertStringContainsString('/when This condition is always yes', $says(['effect' => 'hidden', 'when' => '1 < 2']));
        self::assertStringContainsString('kept by the desk itself', $says(['effect' => 'hidden', 'field' => 'number']));
        self::assertStringContainsString('no type "jobs"', $says(['effect' => 'hidden', 'on' => 'jobs']));
        $unknown = SchemaCheck::errors('rulebook', ['guards' => [['key' => 'g', 'on' => 'job', 'field' => 'level', 'effect' => 'locked']]] + Desks::tree());
        self::assertSame('/guards/0/effect', $unknown[0]->path);
    }

    /**
     * @param  list<array<string, mixed>>  $guards
     * @param  array<string, mixed>  $values
     */
    private static function create(array $guards, array $values): Outcome
    {
        return (new Engine(RulebookBuilder::build(['guards' => $guards] + Desks::tree())))->handle(Event::created('job', 'J-1', $values, 'ann', '2027-03-04T09:00:00'), self::store());
    }

    /**
     * @param  list<array<string, mixed>>  $guards
     * @param  array<string, mixed>  $before
     * @param  array<string, mixed>  $values
     * @param  list<array<string, mixed>>  $rules
     */
    private static function change(array $guards, array $before, array $values, array $rules = []): Outcome
    {
        $store = self::store();
        $store->save(new Record('J-1', 'job', $before));

        return (new Engine(RulebookBuilder::build(['guards' => $guards] + Desks::tree($rules))))->handle(Event::changed('job', 'J-1', $values, 'ann', '2027-03-04T09:00:00'), $store);
    }

    private static function store(): InMemoryStore
    {
        $store = new InMemoryStore;
        $store->save(new Record('S1', 'ship', ['name' => 'Alder', 'chief' => 'ann']));
        $store->save(new Record('S2', 'ship', ['name' => 'Ebb', 'chief' => 'bo']));

        return $store;
    }
}
