<?php

declare(strict_types=1);

namespace Sorvel\Core\Tests\Engine;

use Brick\Math\BigDecimal;
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
use Sorvel\Core\Format\RulebookBuilder;
use Sorvel\Core\Format\RulebookReader;
use Sorvel\Core\Format\SamplesReader;
use Sorvel\Core\Format\SchemaCheck;
use Sorvel\Core\Model\InMemoryStore;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\Rulebook;
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

    public function test_desks_made_at_random_with_mirrors_guards_and_records_that_are_gone(): void
    {
        $random = new Randomizer(new Mt19937(20261127));
        $begun = 0;
        for ($book = 0; $book < 40; $book++) {
            $tree = $this->desk($random);
            if (SchemaCheck::errors('rulebook', $tree) !== []) {
                self::fail(json_encode(SchemaCheck::errors('rulebook', $tree), JSON_THROW_ON_ERROR));
            }
            try {
                $rulebook = RulebookBuilder::build($tree);
            } catch (InvalidInput) {
                continue;
            }
            $events = array_map(fn (int $i): array => [array_filter($this->jobValues($random), fn (mixed $v): bool => $v !== null && $v !== ''), $this->jobValues($random), $random->getInt(0, 1) === 1], range(1, 30));
            // of a draft with one rule more, the others are found one by one
            $draft = RulebookBuilder::build([...$tree, 'rules' => [...$tree['rules'], Desks::rule('more', ['created'], [['add' => 'tags']], ['"more"'])]]);
            $run = function (Rulebook $rulebook, TraceLevel $level) use ($events): array {
                return array_map(function (array $event) use ($rulebook, $level): array {
                    [$before, $values, $isNew] = $event;
                    $store = new InMemoryStore;
                    foreach ([
                        ['Y1', 'yard', ['name' => 'North yard', 'keeper' => 'bo']], ['Y2', 'yard', ['name' => 'Ä yard']],
                        ['S1', 'ship', ['name' => 'Alder', 'chief' => 'ann', 'berths' => 12, 'yard' => 'Y1']], ['S2', 'ship', ['name' => 'Birch', 'chief' => 'gone', 'berths' => 30, 'yard' => 'Y9', 'laid_up' => true]],
                        ['S3', 'ship', ['name' => 'Cedar', 'chief' => 'nobody', 'berths' => BigDecimal::of('1.5')]],
                        ['J-7', 'job', ['number' => 'J-7', 'state' => 'new', 'level' => 'low', 'points' => 4, 'ship' => 'S1']], ['J-8', 'job', ['number' => 'J-8', 'state' => 'done', 'level' => 'low', 'points' => 8, 'ship' => 'S9']],
                    ] as [$id, $type, $stored]) {
                        $store->save(new Record($id, $type, $stored));
                    }
                    $isNew || $store->save(new Record('J-1', 'job', ['number' => 'J-1', 'state' => 'new', ...$before]));
                    $event = $isNew ? Event::created('job', 'J-1', $values, 'bo', '2027-01-30T09:00:00') : Event::changed('job', 'J-1', $values, 'bo', '2027-01-30T09:00:00');

                    return array_map($this->told(...), (new Cascade($rulebook))->run($event, $store, $level));
                }, $events);
            };
            $cases = [[$rulebook, TraceLevel::Outcome], [$rulebook, TraceLevel::Full], [$draft, TraceLevel::Outcome], [$draft, TraceLevel::Full]];
            $walked = array_map(fn (array $case): array => $run(...$case), $cases);
            CompiledRules::make($rulebook);
            $begun += CompiledRules::frame($rulebook, $rulebook->types['job'])->begin !== null ? 1 : 0;
            self::assertNotNull(CompiledRules::passing($rulebook, $rulebook->types['job']));
            self::assertNull(CompiledRules::passing($draft, $draft->types['job']));
            foreach ($cases as $i => $case) {
                self::assertEquals($walked[$i], $run(...$case), json_encode($tree, JSON_THROW_ON_ERROR));
            }
            CompiledRules::forget();
        }
        self::assertGreaterThan(10, $begun, (string) $begun);
    }

    public function test_what_waits_may_read_a_record_that_is_gone(): void
    {
        $rule = Desks::rule('told', [['changed' => ['title']]], [['note' => 'staff'], ['notify' => '"ann"']], ['if ship.name = null then "Of none" else ship.name', 'if mate = null then "Alone" else "Two"'], ['look_ups' => [['name' => 'mate', 'first' => 'ship', 'where' => 'chief = record.ship.chief', 'none' => 'null', 'several' => 'skip_rule']]]);
        $run = function (TraceLevel $level) use ($rule): array {
            $rulebook = Desks::rulebook([$rule]);
            $store = new InMemoryStore;
            $store->save(new Record('J-1', 'job', ['number' => 'J-1', 'state' => 'new', 'ship' => 'S9']));

            return array_map($this->told(...), (new Cascade($rulebook))->run(Event::changed('job', 'J-1', ['title' => 'B'], 'bo', '2027-01-04T09:00:00'), $store, $level));
        };
        $walked = [$run(TraceLevel::Outcome), $run(TraceLevel::Full)];
        CompiledRules::make(Desks::rulebook([$rule]));

        self::assertSame([['told', 'note', ['for' => 'staff', 'text' => 'Of none'], []], ['told', 'notify', ['people' => ['ann'], 'text' => 'Alone'], []]], $walked[0][0]['actions']);
        self::assertEquals($walked, [$run(TraceLevel::Outcome), $run(TraceLevel::Full)]);
    }

    /** @return array<string, mixed> */
    private function desk(Randomizer $random): array
    {
        $pick = fn (array $of): mixed => $of[$random->getInt(0, count($of) - 1)];
        $some = fn (array $of): array => array_values(array_filter($of, fn (mixed $one): bool => $random->getInt(0, 2) > 0));
        $tree = Desks::tree([], [['key' => 'weight', 'title' => 'Weight', 'inputs' => [['key' => 'level', 'label' => 'Level']], 'outputs' => [['key' => 'n', 'label' => 'N']], 'hit' => 'first', 'rows' => [['if' => ['"low"'], 'then' => ['1']], ['if' => ['"high"'], 'then' => ['9']]]]]);
        array_push($tree['types'][0]['fields'], ['key' => 'berths', 'label' => 'Berths', 'type' => 'number'], ['key' => 'yard', 'label' => 'Yard', 'type' => 'reference', 'to' => 'yard'], ['key' => 'laid_up', 'label' => 'Laid up', 'type' => 'yes_no']);
        array_push($tree['types'], ['key' => 'yard', 'title' => 'Yard', 'kind' => 'register', 'name_field' => 'name', 'fields' => [['key' => 'name', 'label' => 'Name', 'type' => 'text'], ['key' => 'keeper', 'label' => 'Keeper', 'type' => 'person']]]);
        foreach ($tree['types'][1]['fields'] as $i => $field) {
            $default = ['level' => '"mid"', 'points' => 'weight(level) + 3', 'note' => 'title'][$field['key']] ?? null;
            if ($default !== null && $random->getInt(0, 2) === 0) {
                $tree['types'][1]['fields'][$i]['default'] = $default;
            }
        }
        array_push(
            $tree['types'][1]['fields'], ['key' => 'yard', 'label' => 'Yard', 'type' => 'reference', 'to' => 'yard'], ['key' => 'berths', 'label' => 'Berths', 'type' => 'number', 'min' => 0, 'max' => 20],
            ['key' => 'chief', 'label' => 'Chief', 'type' => 'person'], ['key' => 'due', 'label' => 'Due', 'type' => 'date'], ['key' => 'takes', 'label' => 'Takes', 'type' => 'duration'],
            ['key' => 'headline', 'label' => 'Headline', 'type' => 'derived', 'formula' => $pick(['title + (if ship = null then "" else ", " + ship.name)', 'if level = null then title else level', 'note', 'if weight(level) > 4 then title else note', 'if event.kind = "changed" then "c" else title'])],
            ['key' => 'keeper', 'label' => 'Keeper', 'type' => 'derived', 'formula' => $pick(['yard.keeper', 'ship.chief', 'if sure then chief else null'])],
            ['key' => 'double', 'label' => 'Double', 'type' => 'derived', 'formula' => $pick(['points * 2', 'other + 1', 'count(tags)'])],
        );
        array_push(
            $tree['types'][0]['fields'], ['key' => 'jobs', 'label' => 'Jobs', 'type' => 'tally', 'of' => 'job', 'via' => 'ship', 'measure' => 'count', 'where' => $pick(['points > 3', 'open(state)', 'level = "low" and other != null', 'ship.laid_up = null', 'weight(level) > 4'])],
            ['key' => 'sum', 'label' => 'Sum', 'type' => 'tally', 'of' => 'job', 'via' => 'ship', 'measure' => $pick(['sum', 'max']), 'field' => 'points'],
        );
        $tree['mirrors'] = $some([
            ['key' => 'm1', 'on' => 'job', 'field' => 'berths', 'from' => 'ship.berths', 'mode' => $pick(['always', 'fill_empty', 'on_change'])],
            ['key' => 'm2', 'on' => 'job', 'field' => 'yard', 'from' => 'ship.yard', 'mode' => $pick(['always', 'fill_empty', 'on_change'])],
            ['key' => 'm3', 'on' => 'job', 'field' => 'chief', 'from' => $pick(['ship.chief', 'yard.keeper', 'if sure then ship.chief else assignee']), 'mode' => $pick(['fill_empty', 'on_change'])],
            ['key' => 'm4', 'on' => 'job', 'field' => 'note', 'from' => 'yard.name', 'mode' => $pick(['fill_empty', 'on_change'])],
        ]);
        $tree['guards'] = $some([
            ['key' => 'g1', 'on' => 'job', 'field' => 'other', 'effect' => 'read_only', 'when' => $pick(['points > 40', 'was.points > 40', 'changed("level") and not(sure)', 'event.by != null and weight(level) > 4'])], ['key' => 'g2', 'on' => 'job', 'field' => 'code', 'effect' => 'hidden', 'when' => 'sure = null or not(sure)'],
            ['key' => 'g3', 'on' => 'job', 'field' => 'note', 'effect' => 'required', 'when' => 'level = "high" and ship != null'],
            ['key' => 'g4', 'on' => 'job', 'field' => 'ship', 'effect' => 'choices', 'only' => $pick(['laid_up = null', 'berths > 2', 'yard = record.yard or record.yard = null']), 'on_parent_change' => $pick(['clear', 'refuse'])],
            ['key' => 'g5', 'on' => 'job', 'field' => 'yard', 'effect' => 'choices', 'when' => 'ship != null', 'only' => 'keeper != null', 'on_parent_change' => $pick(['clear', 'refuse'])],
        ]);
        $cells = [
            'assignee' => ['ship.chief', 'chief', 'yard.keeper', 'found', '"ann"', 'null'], 'team' => ['assignee.team', 'chief.team', '"crew"'], 'yard' => ['ship.yard', 'null'], 'ship' => ['"S1"', 'ship', 'null'],
            'due' => ['today() + @"P2D"', 'today() - @"P40D"', '@"2027-02-03"', 'due', 'null'], 'takes' => ['@"P1D"', '@"PT90M"', 'null'], 'level' => ['"high"', '"low"', 'if open(state) then "mid" else null'],
            'points' => ['points + 1', 'other', 'ship.berths', 'number'], 'note' => ['ship.name', 'title', 'string(today())', 'day of week(today())', 'found'], 'berths' => ['ship.berths', '3'], 'state' => ['"doing"', '"done"'],
        ];
        $affixes = ['title', '"x"', 'ship.name', '" (" + ship.name + ")"', 'null'];
        $checks = ['level' => ['"low"', '"high", "mid"', 'null', '!= null'], 'ship' => ['null', '!= null', '"S1"'], 'ship.laid_up' => ['true', 'false', '-'], 'open(state)' => ['true', 'false'], 'assignee' => ['null', '"ann"', '!= null'], 'ship.berths' => ['> 4', '<= 2', 'null'], 'found' => ['null', '!= null'], 'chief' => ['"ann"', 'null'], 'day of week(today())' => ['"Saturday"', 'not("Monday")']];
        $tree['rules'] = array_map(function (int $i) use ($random, $pick, $cells, $affixes, $checks): array {
            $of = array_map(fn (): string => $pick(array_keys($checks)), range(1, $random->getInt(1, 2)));
            $columns = array_map(function () use ($pick, $cells, $affixes): array {
                $kind = $pick(['set', 'set', 'set', 'tag', 'affix', 'wait']);
                $field = $pick(array_keys($cells));

                return match ($kind) {
                    'tag' => [[$pick(['add', 'remove']) => 'tags'], ['tag(title)', '"laid-up"', 'ship.name', 'level', 'null']],
                    'affix' => [[$pick(['prefix', 'suffix']) => $pick(['title', 'note'])], $affixes],
                    'wait' => [$pick([['note' => 'staff'], ['notify' => $pick(['assignee', 'ship.chief', '"ann"'])], ['message' => 'mail', 'to' => $pick(['"a@b.example"', '"no address"', 'chief']), 'subject' => '"On " + ship.name']]), ['title + "!"', 'if found = null then null else "Found"', '"Of " + ship.name']],
                    default => [$field === 'state' ? ['set' => $field] : ['set' => $field, 'when' => $pick(in_array($field, ['due', 'takes', 'level', 'points', 'berths'], true) ? ['always', 'empty', 'higher', 'lower'] : ['always', 'empty'])], $cells[$field]],
                };
            }, range(1, $random->getInt(1, 3)));
            $lookUp = $pick([
                ['name' => 'found', 'value' => $pick(['ship.chief', 'yard.keeper', 'ship.name', 'if points > 4 then title else null']), 'none' => $pick(['null', 'skip_rule', 'problem', ['use' => 'title']])],
                ['name' => 'found', 'first' => 'job', 'where' => $pick(['ship = record.ship and id != record.id', 'level = record.level', 'ship = record.ship and open(state)', 'points > record.points']), 'none' => $pick(['null', 'skip_rule', 'problem']), ...$pick([['order' => 'points', 'several' => 'first'], ['several' => 'skip_rule'], ['several' => 'problem']])],
                ['name' => 'found', 'count' => 'job', 'where' => $pick(['ship = record.ship', 'ship = record.ship and level != null', 'chief = record.assignee'])],
                ['name' => 'found', 'first' => 'ship', 'where' => $pick(['yard = record.ship.yard', 'chief = record.chief', 'laid_up = true']), 'none' => 'null', 'several' => 'skip_rule'],
            ]);

            return array_filter([
                'key' => 'r'.$i, 'title' => 'r'.$i, 'on' => 'job', 'starts' => $pick([['created'], ['created', ['changed' => ['level', 'ship', 'assignee']]], [['changed' => ['title', 'yard', 'chief', 'headline']]], ['created', ['changed' => ['state'], 'to' => '"doing"'], ['related' => 'ship', 'changed' => ['berths']]]]),
                'only_if' => $pick([null, null, 'ship != null', 'open(state)', 'ship.chief = null', 'level != "low" and ship != null', 'assignee = ship.chief']), 'look_ups' => [$lookUp], 'decide' => $pick([null, null, 'every']), 'repeat' => $pick([null, null, 'once', 'becomes_true']),
                'checks' => array_map(fn (string $check): array => ['of' => $check], $of), 'changes' => array_column($columns, 0),
                'rows' => array_map(fn (): array => ['if' => array_map(fn (string $check): string => $random->getInt(0, 2) === 0 ? '-' : $pick($checks[$check]), $of), 'then' => array_map(fn (array $column): string => $random->getInt(0, 4) === 0 ? '-' : $pick($column[1]), $columns)], range(1, $random->getInt(1, 3))),
            ], fn (mixed $v): bool => $v !== null);
        }, range(1, 6));

        return array_filter($tree, fn (mixed $v): bool => $v !== []);
    }

    /** @return array<string, mixed> */
    private function jobValues(Randomizer $random): array
    {
        $may = [
            'title' => ['A', 'Ünder', 'A long one'], 'level' => ['low', 'mid', 'high', 'old', 'no'], 'points' => [0, 4.5, 50, 101], 'other' => [0, 2.25], 'sure' => [true, false], 'note' => ['n', ''], 'code' => ['AB-1', 'x'],
            'ship' => ['S1', 'S1', 'S2', 'S3', 'S9'], 'yard' => ['Y1', 'Y2', 'Y9'], 'chief' => ['ann', 'bo', 'gone'], 'assignee' => ['ann', null], 'berths' => [4, 30], 'due' => ['2027-01-31'], 'state' => ['new', 'doing', 'done'],
        ];
        $values = [];
        foreach ($may as $field => $some) {
            if ($random->getInt(0, 5) > 3) {
                $values[$field] = $some[$random->getInt(0, count($some) - 1)];
            }
        }

        return array_filter($values, fn (mixed $v): bool => $random->getInt(0, 9) > 0);
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
