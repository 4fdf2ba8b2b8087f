<?php

declare(strict_types=1);

namespace Sorvel\Tests\Api;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Sorvel\Core\Format\RulebookReader;
use Sorvel\Core\Format\SamplesReader;
use Sorvel\Tests\DemoDatabase;

final class DraftTest extends TestCase
{
    private static Client $client;

    public static function setUpBeforeClass(): void
    {
        DemoDatabase::restore();
        self::$client = Client::as('ines');
    }

    public function test_an_edit_is_saved_and_counted_as_a_change(): void
    {
        $part = self::$client->part('rules', 'rank_fault');
        $tree = $part['tree'];
        $tree['rows'][1]['then'][0] = '"soon"';
        $saved = self::$client->save('rules', 'rank_fault', $tree, $part['version'])->json();

        self::assertSame($part['version'] + 1, $saved['part']['version']);
        self::assertSame('ines', $saved['part']['changed_by']);
        self::assertSame([['kind' => 'rules', 'key' => 'rank_fault', 'title' => 'Rank a fault by what it stops', 'what' => 'changed']], $saved['changes']);
        $back = self::$client->save('rules', 'rank_fault', $part['tree'], $saved['part']['version'])->json();
        self::assertSame([], $back['changes'], 'undone, it is the edition again');
    }

    public function test_the_later_save_of_two_is_shown_both_sides(): void
    {
        $part = self::$client->part('rules', 'own_fault');
        $other = Client::as('hanne');
        $theirs = ['title' => 'Theirs'] + $part['tree'];
        self::assertSame(200, $other->save('rules', 'own_fault', $theirs, $part['version'])->status);
        $answer = self::$client->save('rules', 'own_fault', ['title' => 'Mine'] + $part['tree'], $part['version']);

        self::assertSame(412, $answer->status);
        self::assertSame('Theirs', $answer->json()['current']['tree']['title']);
        self::assertSame('hanne', $answer->json()['current']['changed_by']);
        self::assertSame('Theirs', self::$client->part('rules', 'own_fault')['tree']['title'], 'nothing is overwritten');
        self::assertSame(200, self::$client->save('rules', 'own_fault', ['title' => 'Mine'] + $part['tree'], $answer->json()['current']['version'])->status);
    }

    /** @return iterable<string, array{callable(array<string, mixed>): array<string, mixed>, string, string}> */
    public static function badRules(): iterable
    {
        yield 'a formula that does not parse' => [fn (array $t): array => ['only_if' => 'state !='] + $t, '/tree/only_if', 'Expected a value'];
        yield 'an unknown key' => [fn (array $t): array => ['colour' => 'red'] + $t, '/tree/colour', 'not known'];
        yield 'an unknown option' => [function (array $t): array {
            $t['rows'][2]['then'][0] = '"urgnt"';

            return $t;
        }, '/tree/rows/2/then/0', 'did you mean "urgent"'];
        yield 'an unknown option in a check' => [function (array $t): array {
            $t['rows'][2]['if'][0] = '"bording"';

            return $t;
        }, '/tree/rows/2/if/0', 'did you mean "boarding"'];
        yield 'a reference to nothing' => [fn (array $t): array => ['on' => 'fult'] + $t, '/tree/on', 'no type "fult"'];
        yield 'a wrong type in JSON' => [fn (array $t): array => ['title' => 12] + $t, '/tree/title', 'Expected text'];
        yield 'a list where a mapping belongs' => [fn (array $t): array => ['starts' => [['changed' => 'impact']]] + $t, '/tree/starts/0/changed', 'Expected list'];
        yield 'a schedule that is none' => [function (array $t): array {
            $t['starts'][] = ['at' => 'at seven'];

            return $t;
        }, '/tree/starts/2/at', 'is not a schedule'];
        yield 'another key' => [fn (array $t): array => ['key' => 'other'] + $t, '/tree/key', 'must be "rank_fault"'];
        yield 'a formula of a megabyte' => [fn (array $t): array => ['only_if' => str_repeat('a', 1_000_000)] + $t, '/tree/only_if', 'longer than'];
        yield 'ten thousand brackets' => [fn (array $t): array => ['only_if' => str_repeat('(', 9_000).'1'] + $t, '/tree/only_if', 'nested'];
    }

    #[DataProvider('badRules')]
    public function test_a_bad_rule_is_refused_at_its_place_and_nothing_is_saved(callable $spoil, string $pointer, string $says): void
    {
        $part = self::$client->part('rules', 'rank_fault');
        $tree = $spoil($part['tree']);
        self::assertIsArray($tree);
        $answer = self::$client->save('rules', 'rank_fault', $tree, $part['version']);

        self::assertSame(422, $answer->status, $answer->body);
        self::assertStringContainsString($says, $answer->errors()[$pointer] ?? mb_strimwidth($answer->body, 0, 500));
        self::assertSame($part, self::$client->part('rules', 'rank_fault'));
    }

    public function test_bodies_that_cannot_be_read(): void
    {
        $put = fn (string $body): Answer => self::$client->call('PUT', '/api/draft/rules/rank_fault', $body, ['If-Match' => '"1"']);
        self::assertSame(400, $put('{"tree": ')->status);
        self::assertSame(400, $put('[1]')->status);
        self::assertSame(400, $put('"text"')->status);
        self::assertSame(422, $put('{"tree": [1, 2]}')->status);
        self::assertSame(422, $put('{}')->status);
        self::assertSame(413, $put('{"tree": {"a": "'.str_repeat('x', 2_100_000).'"}}')->status);
        self::assertSame(400, $put(str_repeat('{"a":', 100).'1'.str_repeat('}', 100))->status, 'nested too deep');
        self::assertSame(428, self::$client->call('PUT', '/api/draft/rules/rank_fault', ['tree' => ['key' => 'rank_fault']])->status);
        self::assertSame(404, self::$client->call('POST', '/api/draft/desk', ['tree' => ['key' => 'x']])->status);
    }

    public function test_a_table_that_a_rule_calls_cannot_go(): void
    {
        $part = self::$client->part('tables', 'benefit_points');
        $answer = self::$client->call('DELETE', '/api/draft/tables/benefit_points', null, ['If-Match' => '"'.$part['version'].'"']);
        self::assertSame(422, $answer->status);
        self::assertStringContainsString('It would break the rule "Score a proposal', implode(' ', $answer->errors()));
        self::assertSame($part, self::$client->part('tables', 'benefit_points'));
    }

    public function test_a_part_is_added_once_and_removed(): void
    {
        $tree = ['key' => 'fresh', 'title' => 'Fresh', 'on' => 'fault', 'starts' => ['created'], 'changes' => [['set' => 'team', 'when' => 'empty']], 'rows' => [['if' => [], 'then' => ['"deck"']]]];
        $added = self::$client->call('POST', '/api/draft/rules', ['tree' => $tree, 'position' => 2]);
        self::assertSame(201, $added->status);
        self::assertSame('fresh', self::$client->call('GET', '/api/draft')->json()['rules'][2]['key']);
        self::assertSame(409, self::$client->call('POST', '/api/draft/rules', ['tree' => $tree])->status);
        self::assertSame(200, self::$client->call('DELETE', '/api/draft/rules/fresh', null, ['If-Match' => '"'.$added->json()['part']['version'].'"'])->status);
        self::assertSame(404, self::$client->call('DELETE', '/api/draft/rules/fresh', null, ['If-Match' => '"1"'])->status);
    }

    public function test_rules_are_put_in_another_order(): void
    {
        $keys = array_column(self::$client->call('GET', '/api/draft')->json()['rules'], 'key');
        $moved = [...array_slice($keys, 1), $keys[0]];
        $answer = self::$client->call('PUT', '/api/draft/rules/order', ['keys' => $moved]);
        self::assertContains(['kind' => 'rules', 'key' => $keys[0], 'title' => 'Carry the superintendent over from the vessel', 'what' => 'moved'], $answer->json()['changes']);
        self::assertSame($moved, array_column(self::$client->call('GET', '/api/draft')->json()['rules'], 'key'));
        self::assertSame(409, self::$client->call('PUT', '/api/draft/rules/order', ['keys' => array_slice($keys, 1)])->status);
        self::assertSame(409, self::$client->call('PUT', '/api/draft/rules/order', ['keys' => [...$keys, $keys[0]]])->status);
        self::$client->call('PUT', '/api/draft/rules/order', ['keys' => $keys]);
    }

    public function test_a_sample_that_names_nothing_is_refused(): void
    {
        $part = self::$client->part('samples', 'liferaft_is_urgent');
        $tree = $part['tree'];
        $tree['steps'][0]['with']['vessle'] = 'V1';
        $answer = self::$client->save('samples', 'liferaft_is_urgent', $tree, $part['version']);
        self::assertSame(422, $answer->status);
        self::assertStringContainsString('did you mean "vessel"', $answer->errors()['/tree/steps/0/with/vessle']);
    }

    public function test_functions_are_listed_for_completion(): void
    {
        $functions = array_column(self::$client->call('GET', '/api/functions')->json()['functions'], 'parameters', 'name');
        self::assertSame(['list', 'element'], $functions['list contains']);
        self::assertGreaterThan(80, count($functions));
        $try = fn (string $formula): array => self::$client->call('POST', '/api/formulas/try', ['formula' => $formula])->json();
        self::assertSame(['value' => '0.3333333333333333333333333333333333', 'warnings' => [], 'error' => null], $try('1 / 3'));
        self::assertStringContainsString('zero', $try('1 / 0')['warnings'][0]);
        self::assertStringContainsString('Expected a value', $try('1 +')['error']);
    }

    public function test_what_is_exported_reads_back(): void
    {
        $rulebook = self::$client->call('GET', '/api/rulebook.yaml');
        self::assertSame(38, count(RulebookReader::read($rulebook->body, 'rulebook.yaml')->rules));
        self::assertCount(109, SamplesReader::read(self::$client->call('GET', '/api/samples.yaml')->body, 'samples.yaml', RulebookReader::read($rulebook->body, 'rulebook.yaml')));
    }
}
