<?php

declare(strict_types=1);

namespace Sorvel\Core\Tests\Impact;

use PHPUnit\Framework\TestCase;
use Sorvel\Core\Engine\Cascade;
use Sorvel\Core\Engine\Event;
use Sorvel\Core\Format\InvalidInput;
use Sorvel\Core\Impact\Effect;
use Sorvel\Core\Impact\Impact;
use Sorvel\Core\Impact\PastEvent;
use Sorvel\Core\Impact\Tally;
use Sorvel\Core\Impact\WatchedStore;
use Sorvel\Core\Model\InMemoryStore;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\Rulebook;
use Sorvel\Core\Tests\Desks;

/** Past events through another rulebook: what would have come out otherwise, and what cannot be told. */
final class ImpactTest extends TestCase
{
    /** @param  array<string, mixed>  $with */
    private function rulebook(array $with = [], string $cell = '1'): Rulebook
    {
        return Desks::rulebook([Desks::rule('a', ['created'], [['set' => 'other']], [$cell], $with)]);
    }

    /** @param  array<string, mixed>  $values */
    private function happened(Rulebook $rulebook, array $values = ['title' => 'A', 'level' => 'high', 'points' => 7.5, 'ship' => 'S1']): PastEvent
    {
        $store = new InMemoryStore;
        $store->save(new Record('S1', 'ship', ['name' => 'Alder', 'chief' => 'ann']));
        $store->save(new Record('J-7', 'job', ['number' => 'J-7', 'state' => 'new', 'level' => 'high', 'other' => 40]));
        $watched = new WatchedStore($store);
        $event = Event::created('job', 'J-1', $values, 'bo', '2027-01-04T09:00:00+00:00');
        $outcomes = (new Cascade($rulebook))->run($event, $watched);
        self::assertFalse($outcomes[0]->isRefused(), (string) json_encode($outcomes[0]->refused));

        // as it lies in a file
        return PastEvent::from(json_decode((string) json_encode(PastEvent::of($event, $outcomes[0], $watched)->toArray()), true));
    }

    public function test_the_same_rulebook_makes_the_same_of_it(): void
    {
        $rulebook = $this->rulebook(['look_ups' => [['name' => 'same', 'all' => 'job', 'where' => 'level = record.level and id != record.id'], ['name' => 'chief', 'value' => 'ship.chief']], 'checks' => [['of' => 'chief.name']], 'rows' => [['if' => ['"Ann"'], 'then' => ['same[1].other + 1']]]]);
        $past = $this->happened($rulebook);

        self::assertSame(41, $past->after['other']);
        self::assertEquals(new Effect('same'), (new Impact($rulebook))->of($past));
    }

    public function test_another_rulebook_makes_something_else_of_it_and_the_rule_is_named(): void
    {
        $past = $this->happened($this->rulebook());
        $effect = (new Impact($this->rulebook([], '2')))->of($past);
        self::assertEquals(new Effect('otherwise', [['field' => 'other', 'was' => 1, 'would' => 2, 'rule' => 'a']]), $effect);

        $effect = (new Impact($this->rulebook(['only_if' => 'level = "low"'])))->of($past);
        self::assertEquals(new Effect('otherwise', [['field' => 'other', 'was' => 1, 'would' => null, 'rule' => null]], [], ['a']), $effect);

        $refuses = Desks::rulebook([Desks::rule('a', ['created'], [['refuse' => 'save']], ['"Not today."'])]);
        self::assertSame(['otherwise', 'Not today.'], [(new Impact($refuses))->of($past)->verdict, (new Impact($refuses))->of($past)->why]);
    }

    public function test_what_was_not_read_is_never_guessed(): void
    {
        $past = $this->happened($this->rulebook());
        foreach ([
            ['look_ups' => [['name' => 'others', 'all' => 'job', 'where' => 'level = record.level']], 'rows' => [['if' => [], 'then' => ['count(others)']]]],
            ['changes' => [['assign' => 'take_turns', 'team' => 'crew', 'when' => 'empty']], 'rows' => [['if' => [], 'then' => ['true']]]],
        ] as $with) {
            $effect = (new Impact($this->rulebook($with)))->of($past);
            self::assertSame('not_known', $effect->verdict, (string) json_encode($with));
            self::assertNotSame('', (string) $effect->why);
        }
        self::assertSame('same', (new Impact($this->rulebook(['only_if' => 'ship.chief = "ann"'])))->of($past)->verdict, 'the ship was read when the value came in');
    }

    public function test_lines_that_are_no_events_are_refused_with_the_reason(): void
    {
        foreach ([['kind' => 'exploded', 'type' => 'job', 'id' => 'J-1', 'at' => 'x'], ['type' => 'job'], ['kind' => 'created', 'type' => 'job', 'id' => 'J-1', 'at' => 'x', 'values' => 'none']] as $line) {
            try {
                PastEvent::from($line);
                self::fail('It was taken.');
            } catch (InvalidInput $invalid) {
                self::assertNotSame([], $invalid->errors);
            }
        }
    }

    public function test_parts_joined_come_to_the_same_as_all_at_once(): void
    {
        $draft = $this->rulebook([], '2');
        $past = $this->happened($this->rulebook());
        [$all, $one, $other] = [new Tally($draft), new Tally($draft), new Tally($draft)];
        foreach (range(1, 9) as $number) {
            $effect = (new Impact($draft))->of($past);
            $all->take($past, $effect, $number);
            ($number < 4 ? $one : $other)->take($past, $effect, $number);
        }
        $joined = Tally::join([$one->toArray(), $other->toArray()]);
        self::assertSame(Tally::join([$all->toArray()]), $joined);
        self::assertSame(['events' => 9, 'same' => 0, 'otherwise' => 9, 'not_known' => 0], $joined['counts']);
        self::assertSame([['type' => 'job', 'field' => 'other', 'count' => 9, 'values' => [['was' => 1, 'would' => 2, 'count' => 9]]]], $joined['fields']);
        self::assertSame(range(1, 9), array_column($joined['lines'], 'number'));
    }

    public function test_the_command_streams_lines_and_says_what_differs(): void
    {
        $file = tempnam(sys_get_temp_dir(), 'sorvel').'.jsonl';
        $past = ['kind' => 'created', 'type' => 'fault', 'id' => 'F-1', 'by' => 'rafi', 'at' => '2027-01-04T09:00:00+00:00', 'values' => ['title' => 'Door', 'impact' => 'comfort'], 'after' => ['title' => 'Door'], 'acted' => []];
        file_put_contents($file, json_encode($past)."\n\n");
        [$code, $out] = $this->command('demo/rulebook.yaml', $file);
        self::assertSame(1, $code);
        self::assertStringContainsString('1 events: 0 come out the same, 1 otherwise, 0 cannot be told', $out);
        self::assertStringContainsString('fault.priority: 1', $out);
        file_put_contents($file, "{\"kind\": \"created\"\n");
        [$code, , $error] = $this->command('demo/rulebook.yaml', $file);
        self::assertSame([2, $file.":1: This line is not a JSON object.\n"], [$code, $error]);
        unlink($file);
        self::assertSame(2, $this->command('demo/rulebook.yaml')[0]);
    }

    /** @return array{int, string, string} */
    private function command(string ...$arguments): array
    {
        $process = proc_open(['bin/sorvel', 'impact', ...array_values($arguments)], [1 => ['pipe', 'w'], 2 => ['pipe', 'w']], $pipes, __DIR__.'/../../..');
        self::assertIsResource($process);
        $out = (string) stream_get_contents($pipes[1]);
        $error = (string) stream_get_contents($pipes[2]);

        return [proc_close($process), $out, $error];
    }
}
