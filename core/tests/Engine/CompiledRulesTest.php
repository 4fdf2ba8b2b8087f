<?php

declare(strict_types=1);

namespace Sorvel\Core\Tests\Engine;

use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Sorvel\Core\Engine\Action;
use Sorvel\Core\Engine\Cascade;
use Sorvel\Core\Engine\CompiledRules;
use Sorvel\Core\Engine\Event;
use Sorvel\Core\Engine\Outcome;
use Sorvel\Core\Engine\TraceLevel;
use Sorvel\Core\Format\InvalidInput;
use Sorvel\Core\Format\RulebookReader;
use Sorvel\Core\Format\SamplesReader;
use Sorvel\Core\Model\InMemoryStore;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Replay\SampleRunner;
use Sorvel\Core\Tests\Desks;

/** A compiled rule comes to the same as one that is walked, in everything that an outcome tells. */
final class CompiledRulesTest extends TestCase
{
    protected function tearDown(): void
    {
        CompiledRules::forget();
    }

    public function test_the_demo_desk(): void
    {
        $folder = __DIR__.'/../../../demo';
        $rulebook = RulebookReader::read((string) file_get_contents($folder.'/rulebook.yaml'), 'rulebook.yaml');
        $stories = [];
        foreach ((array) glob($folder.'/samples/*.yaml') as $file) {
            foreach (SamplesReader::read((string) file_get_contents((string) $file), (string) $file) as $sample) {
                array_push($stories, ...($sample->proves === 'load' ? [] : ($sample->lines === [] ? [$sample] : $sample->lines)));
            }
        }
        $run = function (TraceLevel $level) use ($rulebook, $stories): array {
            $told = [];
            foreach ($stories as $number => $story) {
                foreach ((new SampleRunner($rulebook))->run($story, $level)->steps as $step) {
                    $told[] = [$story->key, $number, array_map($this->told(...), $step->outcomes)];
                }
            }

            return $told;
        };
        $walked = [$run(TraceLevel::Outcome), $run(TraceLevel::Full)];
        CompiledRules::make($rulebook);

        self::assertGreaterThan(30, array_sum(array_map(fn ($type): int => count(CompiledRules::of($rulebook, $type)), $rulebook->types)));
        self::assertEquals($walked[0], $run(TraceLevel::Outcome));
        self::assertEquals($walked[1], $run(TraceLevel::Full));
    }

    public function test_rules_made_at_random_on_records_made_at_random(): void
    {
        $random = new Randomizer(new Mt19937(20261126));
        $compiled = 0;
        for ($book = 0; $book < 60; $book++) {
            try {
                $rulebook = Desks::rulebook(array_map(fn (int $i): array => $this->rule($random, 'r'.$i), range(1, 6)), [['key' => 'weight', 'title' => 'Weight', 'inputs' => [['key' => 'level', 'label' => 'Level']], 'outputs' => [['key' => 'n', 'label' => 'N']], 'hit' => 'first', 'rows' => [['if' => ['"low"'], 'then' => ['1']], ['if' => ['"high"'], 'then' => ['9']]]]]);
            } catch (InvalidInput) {
                continue;
            }
            $events = array_map(fn (int $i): array => [$this->values($random), $this->values($random), $random->getInt(0, 1) === 1], range(1, 30));
            $run = function (TraceLevel $level) use ($rulebook, $events): array {
                return array_map(function (array $event) use ($rulebook, $level): array {
                    [$before, $values, $isNew] = $event;
                    $store = new InMemoryStore;
                    $store->save(new Record('S1', 'ship', ['name' => 'Alder', 'chief' => 'ann']));
                    $store->save(new Record('J-7', 'job', ['number' => 'J-7', 'state' => 'new', 'level' => 'low', 'points' => 4]));
                    $store->save(new Record('J-8', 'job', ['number' => 'J-8', 'state' => 'new', 'level' => 'low', 'points' => 8, 'ship' => 'S1']));
                    $isNew || $store->save(new Record('J-1', 'job', ['number' => 'J-1', 'state' => 'new', ...$before]));
                    $event = $isNew ? Event::created('job', 'J-1', $values, 'bo', '2027-01-04T09:00:00') : Event::changed('job', 'J-1', $values, 'bo', '2027-01-04T09:00:00');

                    return array_map($this->told(...), (new Cascade($rulebook))->run($event, $store, $level));
                }, $events);
            };
            $walked = [$run(TraceLevel::Outcome), $run(TraceLevel::Full)];
            CompiledRules::make($rulebook);
            $compiled += count(CompiledRules::of($rulebook, $rulebook->types['job']));
            self::assertEquals($walked[0], $run(TraceLevel::Outcome));
            self::assertEquals($walked[1], $run(TraceLevel::Full));
            CompiledRules::forget();
        }
        self::assertGreaterThan(100, $compiled);
    }

    /** @return array<string, mixed> */
    private function told(Outcome $outcome): array
    {
        return [
            'rules' => $outcome->rules(), 'rows' => $outcome->hits->rows(), 'cells' => $outcome->hits->cells(), 'table rows' => $outcome->tableRows,
            'changes' => $outcome->changes, 'problems' => $outcome->problems, 'refused' => $outcome->refused, 'values' => $outcome->record->values,
            'actions' => array_map(fn (Action $a): array => [$a->rule, $a->kind, $a->data, $a->ids], $outcome->actions), 'turns' => $outcome->turns,
            'mirrors' => $outcome->mirrors, 'trace' => $outcome->trace,
        ];
    }

    /** @return array<string, mixed> */
    private function values(Randomizer $random): array
    {
        $may = [
            'title' => ['A', 'B', 'A long one'], 'level' => ['low', 'mid', 'high'], 'points' => [0, 1, 4.5, 5, 50, 100], 'other' => [-3, 0, 2.25, 7, 1000],
            'share' => [0, 40, 100], 'sure' => [true, false], 'note' => ['n'], 'code' => ['AB-1'], 'ship' => ['S1'],
        ];
        $values = [];
        foreach ($may as $field => $some) {
            if ($random->getInt(0, 2) > 0) {
                $values[$field] = $some[$random->getInt(0, count($some) - 1)];
            }
        }

        return $values;
    }

    /** @return array<string, mixed> */
    private function rule(Randomizer $random, string $key): array
    {
        $pick = fn (array $of): mixed => $of[$random->getInt(0, count($of) - 1)];
        $lookUps = $pick([[], [], [['name' => 'alike', 'count' => 'job', 'where' => 'level = record.level']], [['name' => 'one', 'first' => 'job', 'where' => 'level = record.level and id != record.id', 'order' => 'points', 'none' => $pick(['null', 'skip_rule', 'problem']), 'several' => $pick(['first', 'skip_rule', 'problem'])]], [['name' => 'alike', 'value' => 'if points > 4 then points else null', 'none' => $pick(['null', 'problem'])]]]);
        $found = ($lookUps[0]['name'] ?? '') === 'alike' ? ['alike', 'alike + 1'] : (($lookUps[0]['name'] ?? '') === 'one' ? ['one.points', 'one.points * 2'] : []);
        $numbers = ['points * 2', 'other / 3', '5', '200', '-1', '4.25', 'if sure then 3 else null', 'weight(level)', 'points - other', 'null', ...$found];
        $words = ['"!"', 'title', 'title + "!"', 'string(points)', 'ship.name', '"AB-" + string(points)', 'null'];
        $tests = [
            'level' => ['"low"', '"high", "mid"', 'not("low")', 'null', 'not(null)'], 'title' => ['"A"', 'starts with(?, "A")', 'null', 'title'], 'sure' => ['true', 'false', 'null', 'not(true)'],
            ...array_fill_keys(['points', 'other', 'share', 'points * 2', 'weight(level)', ...$found], ['> 4', '<= 5', '[1..5)', 'null', '!= 4', '? > other', '4.5', 'not(> 40)', '4, 5, 50', '< other']), 'ship.name' => ['"Alder"', 'null'],
        ];
        $checks = array_map(fn (): array => ['of' => $pick(array_keys($tests))], range(1, $random->getInt(1, 3)));
        $may = [
            [['set' => 'level'], ['set' => 'level', 'when' => 'higher'], ['set' => 'level', 'when' => 'empty'], ['set' => 'level', 'when' => 'lower']], ['"low"', '"mid"', '"high"', 'level', 'if sure then "high" else null', 'null'],
            [['set' => 'points'], ['set' => 'points', 'when' => 'lower'], ['set' => 'other'], ['set' => 'other', 'when' => 'higher'], ['set' => 'share'], ['set' => 'share', 'when' => 'empty'], ['raise' => 'points'], ['raise' => 'other']], $numbers,
            [['set' => 'sure'], ['set' => 'sure', 'when' => 'empty'], ['clear' => 'note']], ['true', 'false', 'points > 4', 'not(sure)'],
            [['set' => 'title'], ['set' => 'note'], ['set' => 'code'], ['prefix' => 'title'], ['suffix' => 'title'], ['note' => 'staff']], $words,
            [['set' => 'state']], ['"doing"', '"done"', 'if points > 4 then "doing" else null'],
            [['refuse' => 'save']], ['if points > 40 then "Too much." else null'],
        ];
        $columns = array_map(function () use ($random, $may, $pick): array {
            $kind = 2 * $random->getInt(0, $random->getInt(3, 5));

            return [$pick($may[$kind]), $may[$kind + 1]];
        }, range(1, $random->getInt(1, 3)));
        $rows = array_map(fn (): array => [
            'if' => array_map(fn (array $check): string => $random->getInt(0, 2) === 0 ? '-' : $pick($tests[$check['of']]), $checks),
            'then' => array_map(fn (array $column): string => $random->getInt(0, 4) === 0 ? '-' : $pick($column[1]), $columns),
        ], range(1, $random->getInt(1, 4)));
        $starts = $pick([['created'], ['created', ['changed' => ['points', 'level']]], [['changed' => ['other', 'points']]], ['created', ['changed' => ['level'], 'to' => '"high"']], [['changed' => ['title', 'sure', 'share']]]]);

        return array_filter(['key' => $key, 'title' => $key, 'on' => 'job', 'starts' => $starts, 'only_if' => $pick([null, null, 'state != "done"', 'points > 2 and level != "low"', 'changed("points")', 'sure', 'points > other']), 'look_ups' => $lookUps, 'decide' => $pick([null, 'every']), 'repeat' => $pick([null, null, null, 'once', 'becomes_true']), 'checks' => $checks, 'changes' => array_column($columns, 0), 'rows' => $rows], fn (mixed $v): bool => $v !== null && $v !== []);
    }
}
