<?php

declare(strict_types=1);

namespace Sorvel\Core\Tests\Model;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Sorvel\Core\Engine\Engine;
use Sorvel\Core\Engine\Event;
use Sorvel\Core\Engine\Outcome;
use Sorvel\Core\Format\InvalidInput;
use Sorvel\Core\Format\RulebookBuilder;
use Sorvel\Core\Model\InMemoryStore;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Tests\Desks;

/** Every field type: what it takes, how it is stored, what a formula sees. */
final class FieldTypesTest extends TestCase
{
    private const FIELDS = [
        ['key' => 'due', 'label' => 'Due', 'type' => 'date'],
        ['key' => 'at', 'label' => 'At', 'type' => 'date_time'],
        ['key' => 'took', 'label' => 'Took', 'type' => 'duration'],
        ['key' => 'decks', 'label' => 'Decks', 'type' => 'choices', 'options' => [['key' => 'car', 'label' => 'Car deck'], ['key' => 'sun', 'label' => 'Sun deck'], ['key' => 'old', 'label' => 'Old deck', 'active' => false]]],
        ['key' => 'spot', 'label' => 'Spot', 'type' => 'two_step_choice', 'options' => [['key' => 'engine', 'label' => 'Engine room', 'children' => [['key' => 'pump', 'label' => 'Pump'], ['key' => 'shaft', 'label' => 'Shaft']]], ['key' => 'bridge', 'label' => 'Bridge']]],
        ['key' => 'crew', 'label' => 'Crew', 'type' => 'people'],
        ['key' => 'ships', 'label' => 'Ships', 'type' => 'references', 'to' => 'ship'],
        ['key' => 'story', 'label' => 'Story', 'type' => 'rich_text'],
        ['key' => 'seen', 'label' => 'Seen', 'type' => 'text'],
    ];

    /** @return iterable<string, array{string, mixed, mixed, string, mixed}> field, value, as stored, a formula, what it comes to */
    public static function values(): iterable
    {
        yield 'date' => ['due', '2027-03-04', '2027-03-04', 'string(due + @"P1M") + " " + string(due.weekday)', '2027-04-04 4'];
        yield 'moment on the desk’s clock' => ['at', '2027-07-04T09:00:00', '2027-07-04T08:00:00Z', 'string(at)', '2027-07-04T09:00:00@Europe/Lisbon'];
        yield 'moment without seconds' => ['at', '2027-01-04T09:00', '2027-01-04T09:00:00Z', 'string(at.hour)', '9'];
        yield 'moment with an offset' => ['at', '2027-07-04T09:00:00+02:00', '2027-07-04T07:00:00Z', 'string(time(at))', '08:00:00@Europe/Lisbon'];
        yield 'duration in days' => ['took', 'PT36H', 'P1DT12H', 'string(took.hours)', '12'];
        yield 'duration in months' => ['took', 'P14M', 'P1Y2M', 'string(took.years)', '1'];
        yield 'choices in their own order, each once' => ['decks', ['sun', 'car', 'sun'], ['car', 'sun'], 'if list contains(decks, "car") then string join(decks, "+") else null', 'car+sun'];
        yield 'second step' => ['spot', 'pump', 'pump', 'if spot = "pump" and spot.parent = "engine" then spot.label + " in the " + spot.parent.label else null', 'Pump in the Engine room'];
        yield 'first step without second' => ['spot', 'bridge', 'bridge', 'if spot in ("bridge", "pump") and spot.parent = null then spot.key else null', 'bridge'];
        yield 'people' => ['crew', ['bo', 'ann', 'bo'], ['bo', 'ann'], 'string join(crew.name, ", ") + " " + string(count(crew[name = "Ann"]))', 'Bo, Ann 1'];
        yield 'references' => ['ships', ['S2', 'S1'], ['S2', 'S1'], 'string join(for s in ships return s.name, ", ") + string(count(ships[chief = "ann"]))', 'Ebb, Alder1'];
        yield 'marks that stay' => ['story', '<p>Stuck <b>half</b> open</p>', '<p>Stuck <b>half</b> open</p>', 'plain text(story)', 'Stuck half open'];
        yield 'marks that go' => ['story', '<div onclick="x()">Hi<script>alert(1)</script><img src=x onerror=alert(2)> <a href="javascript:x">a</a></div>', 'Hi <a rel="noopener noreferrer">a</a>', 'plain text(story)', 'Hi a'];
    }

    #[DataProvider('values')]
    public function test_a_value_is_stored_and_seen(string $field, mixed $value, mixed $stored, string $formula, mixed $seen): void
    {
        $outcome = self::create([$field => $value], $formula);

        self::assertSame([], $outcome->refused);
        self::assertSame($stored, $outcome->record->value($field));
        self::assertSame($seen, $outcome->record->value('seen'), json_encode($outcome->trace) ?: '');
    }

    #[DataProvider('values')]
    public function test_what_is_stored_fits_again_unchanged(string $field, mixed $value, mixed $stored): void
    {
        self::assertSame($stored, self::create([$field => $stored], 'null')->record->value($field));
    }

    /** @return iterable<string, array{string, mixed, string}> */
    public static function misfits(): iterable
    {
        yield 'no date' => ['due', '2027-02-30', 'it must be a date'];
        yield 'a date as a number' => ['due', 20270304, 'it must be a date'];
        yield 'no moment' => ['at', '2027-03-04', 'a date and a time'];
        yield 'no duration' => ['took', '3 days', 'examples are PT90M'];
        yield 'an unknown option among several' => ['decks', ['car', 'sunn'], 'did you mean "sun"'];
        yield 'a retired option' => ['decks', ['old'], 'no longer in use'];
        yield 'the first step alone' => ['spot', 'engine', 'choose one of those below it, such as "pump"'];
        yield 'an unknown person among several' => ['crew', ['ann', 'ana'], 'no person "ana"'];
        yield 'a record of another type' => ['ships', ['S1', 'X9'], 'X9'];
        yield 'rich text that is no text' => ['story', ['a'], 'it must be a text'];
        yield 'too much rich text' => ['story', str_repeat('ab ', 80_000), 'at most 200,000'];
    }

    #[DataProvider('misfits')]
    public function test_what_does_not_fit_is_told(string $field, mixed $value, string $says): void
    {
        $refused = self::create([$field => $value], 'null')->refused;

        self::assertSame([$field], array_column($refused, 'field'));
        self::assertStringContainsString($says, $refused[0]['reason']);
    }

    public function test_rules_write_them_too(): void
    {
        $rule = Desks::rule('r', ['created'], [['set' => 'due'], ['set' => 'at'], ['set' => 'took'], ['add' => 'decks'], ['set' => 'spot'], ['add' => 'crew'], ['add' => 'ships'], ['set' => 'story']], ['today() + @"P2D"', 'event.at', 'event.at + @"PT5H" - event.at', '["sun"]', '"shaft"', 'ship.chief', 'ship', '"<b>x</b>" + title']);
        $outcome = self::made([$rule], ['ship' => 'S1', 'decks' => ['car'], 'crew' => ['bo'], 'title' => '<i>y</i>']);

        self::assertSame([], $outcome->problems);
        self::assertSame(['2027-03-06', '2027-03-04T09:00:00Z', 'PT5H', ['car', 'sun'], 'shaft', ['bo', 'ann'], ['S1'], '<b>x</b><i>y</i>'], array_map($outcome->record->value(...), ['due', 'at', 'took', 'decks', 'spot', 'crew', 'ships', 'story']));
    }

    public function test_dates_and_durations_keep_the_higher(): void
    {
        $rule = Desks::rule('r', [['changed' => ['due', 'took']]], [['set' => 'due', 'when' => 'higher'], ['set' => 'took', 'when' => 'lower']], ['@"2027-05-01"', '@"PT90M"']);
        $store = self::store();
        $store->save(new Record('J-1', 'job', ['state' => 'new', 'due' => '2027-04-01', 'took' => 'P1D']));
        $book = self::book([$rule]);
        $outcome = (new Engine($book))->handle(Event::changed('job', 'J-1', ['due' => '2027-04-02'], null, '2027-03-04T09:00:00'), $store);
        self::assertSame(['2027-05-01', 'PT1H30M'], [$outcome->record->value('due'), $outcome->record->value('took')]);
        $outcome = (new Engine($book))->handle(Event::changed('job', 'J-1', ['due' => '2027-06-02', 'took' => 'PT5M'], null, '2027-03-04T09:00:00'), $store);
        self::assertSame(['2027-06-02', 'PT5M'], [$outcome->record->value('due'), $outcome->record->value('took')]);
    }

    public function test_a_ticket_knows_when_it_was_made_and_changed(): void
    {
        $outcome = self::create([], 'string(date(created_at))');
        self::assertSame('2027-03-04', $outcome->record->value('seen'));
        $store = self::store();
        $store->save($outcome->record);
        $engine = new Engine(self::book([]));
        $changed = $engine->handle(Event::changed('job', 'J-1', ['title' => 'Other'], null, '2027-03-05T10:00:00'), $store);
        self::assertSame(['2027-03-04T09:00:00Z', '2027-03-05T10:00:00Z'], [$changed->record->value('created_at'), $changed->record->value('changed_at')]);
        $same = $engine->handle(Event::changed('job', 'J-1', [], null, '2027-03-06T10:00:00'), $store);
        self::assertSame('2027-03-04T09:00:00Z', $same->record->value('changed_at'), 'what changes nothing is no change');
        self::assertNotSame([], $engine->handle(Event::changed('job', 'J-1', ['created_at' => '2020-01-01T00:00:00'], 'ann', '2027-03-06T10:00:00'), $store)->refused);
    }

    public function test_wrong_definitions_are_told(): void
    {
        $says = function (array $field): string {
            $tree = self::tree([]);
            $tree['types'][1]['fields'][] = $field + ['key' => 'extra', 'label' => 'Extra'];
            try {
                RulebookBuilder::build($tree);
            } catch (InvalidInput $invalid) {
                return implode("\n", array_map(fn ($e): string => $e->path.' '.$e->message, $invalid->errors));
            }
            self::fail('It was taken.');
        };
        $a = ['key' => 'a', 'label' => 'A'];
        self::assertStringContainsString('/children Only the options of a two_step_choice', $says(['type' => 'choice', 'options' => [$a + ['children' => [$a]]]]));
        self::assertStringContainsString('two steps, not three', $says(['type' => 'two_step_choice', 'options' => [$a + ['children' => [['key' => 'b', 'label' => 'B', 'children' => [['key' => 'c', 'label' => 'C']]]]]]]));
        self::assertStringContainsString('already an option "a"', $says(['type' => 'two_step_choice', 'options' => [$a + ['children' => [$a]]]]));
        self::assertStringContainsString('needs options', $says(['type' => 'choices']));
        self::assertStringContainsString('needs "to"', $says(['type' => 'references']));
        self::assertStringContainsString('write it as @"2027-03-04"', $says(['type' => 'date', 'default' => '"4 March"']));
    }

    /** @param  array<string, mixed>  $values */
    private static function create(array $values, string $formula): Outcome
    {
        return self::made([Desks::rule('r', ['created'], [['set' => 'seen']], [$formula])], $values);
    }

    /**
     * @param  list<array<string, mixed>>  $rules
     * @param  array<string, mixed>  $values
     */
    private static function made(array $rules, array $values): Outcome
    {
        return (new Engine(self::book($rules)))->handle(Event::created('job', 'J-1', $values, 'ann', '2027-03-04T09:00:00'), self::store());
    }

    private static function store(): InMemoryStore
    {
        $store = new InMemoryStore;
        $store->save(new Record('S1', 'ship', ['name' => 'Alder', 'chief' => 'ann']));
        $store->save(new Record('S2', 'ship', ['name' => 'Ebb', 'chief' => 'bo']));

        return $store;
    }

    /** @param  list<array<string, mixed>>  $rules */
    private static function book(array $rules): \Sorvel\Core\Model\Rulebook
    {
        return RulebookBuilder::build(self::tree($rules));
    }

    /**
     * @param  list<array<string, mixed>>  $rules
     * @return array<string, mixed>
     */
    private static function tree(array $rules): array
    {
        $tree = ['timezone' => 'Europe/Lisbon'] + Desks::tree($rules);
        array_push($tree['types'][1]['fields'], ...self::FIELDS);

        return $tree;
    }
}
