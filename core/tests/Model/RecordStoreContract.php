<?php

declare(strict_types=1);

namespace Sorvel\Core\Tests\Model;

use Sorvel\Core\Feel\Number;
use Sorvel\Core\Model\Condition;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordStore;
use Sorvel\Core\Model\Rulebook;

/** What every record store promises; the store in memory and the one in the database are both held to it. */
trait RecordStoreContract
{
    abstract protected function store(Rulebook $rulebook): RecordStore;

    /** A store that has read nothing yet and sees what the first has saved. */
    abstract protected function again(Rulebook $rulebook, RecordStore $store): RecordStore;

    private function desk(): Rulebook
    {
        return \Sorvel\Core\Tests\Desks::rulebook();
    }

    public function test_what_is_saved_is_found_with_every_kind_of_value(): void
    {
        $store = $this->store($this->desk());
        $values = ['title' => 'Zoë "quoted" <b>', 'points' => Number::of('3.5'), 'other' => 12, 'sure' => false, 'tags' => ['b', 'a'], 'ship' => 'X-S1', 'note' => "two\nlines", 'state' => 'new'];
        $store->save(new Record('X-J1', 'job', $values));
        $found = $this->again($this->desk(), $store)->find('X-J1');

        self::assertNotNull($found);
        self::assertSame('job', $found->type);
        foreach ($values as $key => $value) {
            self::assertTrue(Record::same($value, $found->value($key)), $key.' is '.json_encode($found->value($key)));
        }
        self::assertSame(array_keys($values), array_keys($found->values));
    }

    public function test_exact_decimals_stay_exact(): void
    {
        $store = $this->store($this->desk());
        $store->save(new Record('X-J1', 'job', ['other' => Number::of('0.1234567890123456789012345678901234')]));

        self::assertSame('0.1234567890123456789012345678901234', (string) Number::text($this->number($this->again($this->desk(), $store)->find('X-J1')?->value('other'))));
    }

    public function test_what_is_not_there_is_not_found(): void
    {
        $store = $this->store($this->desk());

        self::assertNull($store->find('X-nothing'));
        self::assertSame([], $store->findMany(['X-nothing', 'X-neither']));
    }

    public function test_records_are_found_by_conditions_on_their_values(): void
    {
        $store = $this->store($this->desk());
        foreach ([['a', 'low', 3, true, 'X-S1'], ['b', 'high', 10, false, 'X-S1'], ['b', 'high', 10.5, null, 'X-S2'], [null, 'mid', null, true, null]] as $i => [$title, $level, $points, $sure, $ship]) {
            $store->save(new Record('X-J'.(9 + $i), 'job', array_filter(['title' => $title, 'level' => $level, 'points' => $points === 10.5 ? Number::of('10.5') : $points, 'sure' => $sure, 'ship' => $ship], fn (mixed $v): bool => $v !== null)));
        }
        $store->save(new Record('X-S1', 'ship', ['name' => 'b']));
        $found = function (Condition ...$conditions) use ($store): array {
            $before = $store->matching('job', array_values($conditions));
            $after = $this->again($this->desk(), $store)->matching('job', array_values($conditions));
            self::assertSame($before, $after, 'what waits to be written counts as what is written');

            return array_values(array_filter($after, fn (string $id): bool => str_starts_with($id, 'X-J')));
        };
        self::assertSame(['X-J10', 'X-J11'], $found(new Condition('title', 'in', ['b'])));
        self::assertSame(['X-J9', 'X-J10', 'X-J11'], $found(new Condition('title', 'in', ['a', 'b'])), 'in natural order');
        self::assertSame(['X-J10'], $found(new Condition('title', 'in', ['b']), new Condition('ship', 'in', ['X-S1'])));
        self::assertSame(['X-J9', 'X-J12'], $found(new Condition('sure', 'in', [true])));
        self::assertSame(['X-J10'], $found(new Condition('points', 'in', [10])));
        self::assertSame(['X-J11'], $found(new Condition('points', '>', [10])));
        self::assertSame(['X-J9', 'X-J10'], $found(new Condition('points', '<=', [10])));
        self::assertSame(['X-J12'], $found(new Condition('points', 'empty'), new Condition('level', 'in', ['mid'])));
        self::assertSame(['X-J12'], $found(new Condition('ship', 'empty'), new Condition('level', 'in', ['mid', 'low'])));
        self::assertSame(['X-J10'], $found(new Condition('id', 'in', ['X-J10', 'X-S1'])));
        self::assertSame([], $found(new Condition('title', 'in', ["b' OR 1=1 -- "])));
    }

    public function test_what_is_foreseen_is_found_all_the_same(): void
    {
        $store = $this->store($this->desk());
        foreach ([['X-J1', 'a'], ['X-J2', 'b'], ['X-J3', 'b']] as [$id, $title]) {
            $store->save(new Record($id, 'job', ['title' => $title, 'level' => $id === 'X-J3' ? 'high' : 'low']));
        }
        $later = $this->again($this->desk(), $store);
        $later->foresee('job', 'title', ['a', 'b', 'c']);
        self::assertSame(['X-J2', 'X-J3'], $later->matching('job', [new Condition('title', 'in', ['b'])]));
        self::assertSame(['X-J3'], $later->matching('job', [new Condition('title', 'in', ['b']), new Condition('level', 'in', ['high'])]));
        self::assertSame([], $later->matching('job', [new Condition('title', 'in', ['c'])]));
        $later->save(new Record('X-J4', 'job', ['title' => 'c']));
        $later->save(new Record('X-J2', 'job', ['title' => 'c']));
        self::assertSame(['X-J2', 'X-J4'], $later->matching('job', [new Condition('title', 'in', ['c'])]), 'also what was saved since');
        self::assertSame(['X-J3'], $later->matching('job', [new Condition('title', 'in', ['b'])]));
    }

    public function test_turns_and_loads_are_kept(): void
    {
        $store = $this->store($this->desk());
        self::assertNull($store->lastTurn('crew'));
        $store->takeTurn('crew', 'bo');
        self::assertSame('bo', $store->lastTurn('crew'));
        $store->takeTurn('crew', 'ann');
        $open = ['job' => ['new', 'doing']];
        $before = $store->loads(['ann', 'bo'], $open);
        foreach ([['ann', 'new'], ['ann', 'doing'], ['ann', 'done'], ['bo', 'new']] as $i => [$person, $state]) {
            $store->save(new Record('X-J'.$i, 'job', ['assignee' => $person, 'state' => $state]));
        }
        $store->save(new Record('X-J3', 'job', ['assignee' => 'bo', 'state' => 'done']));
        foreach ([$store, $this->again($this->desk(), $store)] as $each) {
            self::assertSame('ann', $each->lastTurn('crew'));
            $now = $each->loads(['ann', 'bo'], $open);
            self::assertSame([$before['ann'] + 2, $before['bo']], [$now['ann'], $now['bo']]);
        }
    }

    public function test_a_later_save_replaces_the_earlier(): void
    {
        $store = $this->store($this->desk());
        $store->save(new Record('X-J1', 'job', ['title' => 'a', 'points' => 1]));
        $store->save(new Record('X-J1', 'job', ['title' => 'b']));

        self::assertSame(['title' => 'b'], $store->find('X-J1')?->values);
        self::assertSame(['title' => 'b'], $this->again($this->desk(), $store)->find('X-J1')?->values);
    }

    public function test_many_are_found_at_once(): void
    {
        $store = $this->store($this->desk());
        foreach (['X-J1', 'X-J2', 'X-J3'] as $id) {
            $store->save(new Record($id, 'job', ['title' => $id]));
        }
        $found = $this->again($this->desk(), $store)->findMany(['X-J3', 'X-J1', 'X-nothing']);
        ksort($found);

        self::assertSame(['X-J1', 'X-J3'], array_keys($found));
        self::assertSame('X-J3', $found['X-J3']->value('title'));
    }

    public function test_records_are_found_by_what_they_refer_to(): void
    {
        $store = $this->store($this->desk());
        foreach (['X-S1' => 'ship', 'X-S2' => 'ship'] as $id => $type) {
            $store->save(new Record($id, $type, ['name' => $id]));
        }
        foreach (['X-J10' => 'X-S1', 'X-J9' => 'X-S1', 'X-J1' => 'X-S2'] as $id => $ship) {
            $store->save(new Record($id, 'job', ['ship' => $ship, 'title' => 'X-S1']));
        }
        $again = $this->again($this->desk(), $store);

        self::assertSame(['X-J9', 'X-J10'], $again->referring('job', 'ship', ['X-S1']));
        self::assertSame(['X-J1', 'X-J9', 'X-J10'], $again->referring('job', 'ship', ['X-S1', 'X-S2']));
        self::assertSame([], $again->referring('job', 'ship', ['X-S9']));
        self::assertSame([], $again->referring('ship', 'ship', ['X-S1']));
    }

    public function test_ids_count_up_and_pass_over_those_in_use(): void
    {
        $desk = $this->desk();
        $store = $this->store($desk);
        $first = $store->newId($desk->types['job']);
        self::assertMatchesRegularExpression('~^J-\d+$~', $first);
        $next = 'J-'.((int) substr($first, 2) + 1);
        $store->save(new Record($next, 'job', []));

        self::assertSame('J-'.((int) substr($first, 2) + 2), $store->newId($desk->types['job']));
        self::assertStringStartsWith('SHIP-', $store->newId($desk->types['ship']));
    }

    private function number(mixed $value): int|\Brick\Math\BigDecimal
    {
        return is_int($value) || $value instanceof \Brick\Math\BigDecimal ? $value : throw new \LogicException('Not a number.');
    }
}
