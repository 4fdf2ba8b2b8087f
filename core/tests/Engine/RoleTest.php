<?php

declare(strict_types=1);

namespace Sorvel\Core\Tests\Engine;

use PHPUnit\Framework\TestCase;
use Sorvel\Core\Engine\Cascade;
use Sorvel\Core\Engine\Event;
use Sorvel\Core\Engine\Outcome;
use Sorvel\Core\Format\RulebookBuilder;
use Sorvel\Core\Model\InMemoryStore;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\Role;
use Sorvel\Core\Tests\Desks;

/** Who may set and move what, wherever the change comes from; and what becomes of a record that is deleted. */
final class RoleTest extends TestCase
{
    public function test_a_requester_sets_what_is_asked_and_nothing_else(): void
    {
        $made = self::create(['title' => 'Door', 'level' => 'low'], 'kit');
        self::assertSame([], $made->refused);
        self::assertSame('kit', $made->record->value('requester'), 'what a requester asks for is theirs');

        $refused = self::create(['title' => 'Door', 'points' => 5, 'other' => 2, 'assignee' => 'ann', 'tags' => ['x'], 'state' => 'doing'], 'kit')->refused;
        self::assertSame(['points', 'other', 'assignee', 'tags', 'state'], array_column($refused, 'field'));
        self::assertStringContainsString('not by requesters', $refused[0]['reason']);
        self::assertSame([], self::create(['title' => 'Door', 'points' => 5, 'requester' => 'kit'], 'bo')->refused, 'an agent may');
    }

    public function test_moves_ask_for_a_role(): void
    {
        self::assertSame([], self::change(['state' => 'doing'], 'bo')->refused);
        self::assertStringContainsString('needs the role agent', self::change(['state' => 'doing'], 'kit')->refused[0]['reason']);
        self::assertStringContainsString('needs the role builder', self::change(['state' => 'done'], 'bo')->refused[0]['reason']);
        self::assertSame([], self::change(['state' => 'done'], 'bo', Role::Publisher)->refused, 'as what one is now, not as the rulebook says');
        self::assertSame([], self::change(['state' => 'given_up'], 'kit')->refused, 'a move that names requesters');
        self::assertSame([], self::change(['state' => 'done'], null)->refused, 'the desk itself may do all');
    }

    public function test_a_retired_field_takes_no_new_values(): void
    {
        $refused = self::change(['code' => 'AB-1'], 'bo')->refused;
        self::assertStringContainsString('retired', $refused[0]['reason']);
        self::assertSame([], self::change(['code' => null], 'bo')->refused);
    }

    public function test_a_record_that_others_refer_to_stays(): void
    {
        [$book, $store] = self::desk();
        $outcome = (new Cascade($book))->run(Event::deleted('ship', 'S1', 'ann', '2027-01-04T09:00:00'), $store)[0];
        self::assertStringContainsString('a job refers to it by "Ship": J-1', $outcome->refused[0]['reason']);

        $gone = (new Cascade($book))->run(Event::deleted('job', 'J-1', 'ann', '2027-01-04T09:00:00'), $store);
        self::assertTrue($gone[0]->deleted);
        self::assertSame('S1', $gone[1]->record->id, 'and the tally of its parent follows');
        self::assertSame(0, $gone[1]->record->value('jobs'));
    }

    /** @return array{\Sorvel\Core\Model\Rulebook, InMemoryStore} */
    private static function desk(): array
    {
        $tree = Desks::tree();
        $tree['people'][] = ['key' => 'kit', 'name' => 'Kit', 'role' => 'requester'];
        $tree['types'][0]['fields'][] = ['key' => 'jobs', 'label' => 'Jobs', 'type' => 'tally', 'of' => 'job', 'via' => 'ship', 'measure' => 'count'];
        $job = &$tree['types'][1];
        $job['states'][] = ['key' => 'given_up', 'label' => 'Given up', 'open' => false];
        $job['moves'] = [['from' => 'new', 'to' => ['doing']], ['from' => 'new', 'to' => ['done'], 'roles' => ['builder']], ['from' => 'new', 'to' => ['given_up'], 'roles' => ['builder', 'requester']]];
        $job['fields'][3]['requester'] = 'hidden';
        $job['fields'][4]['requester'] = 'read_only';
        $job['fields'][8]['active'] = false;
        $book = RulebookBuilder::build($tree);
        $store = new InMemoryStore;
        $store->save(new Record('S1', 'ship', ['name' => 'Alder', 'jobs' => 1]));
        $store->save(new Record('J-1', 'job', ['number' => 'J-1', 'state' => 'new', 'title' => 'Door', 'ship' => 'S1', 'code' => 'AB-7']));

        return [$book, $store];
    }

    /** @param  array<string, mixed>  $values */
    private static function create(array $values, string $by): Outcome
    {
        [$book, $store] = self::desk();

        return (new Cascade($book))->run(Event::created('job', 'J-2', $values, $by, '2027-01-04T09:00:00'), $store)[0];
    }

    /** @param  array<string, mixed>  $values */
    private static function change(array $values, ?string $by, ?Role $role = null): Outcome
    {
        [$book, $store] = self::desk();

        return (new Cascade($book))->run(Event::changed('job', 'J-1', $values, $by, '2027-01-04T09:00:00', $role), $store)[0];
    }
}
