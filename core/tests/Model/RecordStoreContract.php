<?php

declare(strict_types=1);

namespace Sorvel\Core\Tests\Model;

use Sorvel\Core\Feel\Number;
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
