<?php

declare(strict_types=1);

namespace Sorvel\Tests\Api;

use PHPUnit\Framework\TestCase;
use Sorvel\Tests\DemoDatabase;

final class ReplayTest extends TestCase
{
    private static Client $client;

    public static function setUpBeforeClass(): void
    {
        DemoDatabase::restore();
        self::$client = Client::as('ines');
    }

    public function test_the_screen_and_the_command_line_give_the_same_verdicts(): void
    {
        $root = dirname(__DIR__, 2);
        $line = json_decode((string) shell_exec('cd '.escapeshellarg($root).' && bin/sorvel replay demo/rulebook.yaml demo/samples/*.yaml --json'), true);
        $screen = self::$client->call('POST', '/api/replay', [])->json();

        self::assertSame($line['totals'], $screen['totals']);
        self::assertSame(array_column($line['samples'], 'verdict', 'key'), array_column($screen['samples'], 'verdict', 'key'));
        self::assertSame($line['coverage'], $screen['coverage']);
        $storm = array_column($screen['samples'], null, 'key')['hundred_faults_in_a_storm'];
        self::assertGreaterThanOrEqual(100, $storm['events']);
        self::assertLessThan(500, $storm['events']);
        self::assertGreaterThan(0, $storm['ms']);
        self::assertGreaterThan(0, $storm['memory']);
        self::assertGreaterThanOrEqual(100, $storm['queries']);
    }

    public function test_workers_share_a_long_replay_and_come_to_the_same(): void
    {
        $asked = self::$client->call('POST', '/api/work', ['kind' => 'replay'])->json();
        self::assertGreaterThan(4, $asked['chunks']);
        for ($tries = 0; $tries < 300; $tries++) {
            $work = self::$client->call('GET', '/api/work/'.$asked['number'].'?result=no')->json();
            self::assertSame([], $work['result']);
            if ($work['done'] === $work['chunks']) {
                break;
            }
            usleep(100_000);
        }
        $shared = self::$client->call('GET', '/api/work/'.$asked['number'])->json()['result'];
        $alone = self::$client->call('POST', '/api/replay', [])->json();
        $plain = fn (array $samples): array => array_map(fn (array $s): array => array_diff_key($s, ['ms' => 1, 'memory' => 1]), $samples);

        self::assertSame($alone['totals'], $shared['totals']);
        self::assertEquals($plain($alone['samples']), $plain($shared['samples']));
        self::assertSame($alone['coverage'], $shared['coverage']);
        // what is in the way of publishing is known from it
        $off = array_column(array_filter($shared['samples'], fn (array $s): bool => $s['verdict'] !== 'agrees'), 'key');
        self::assertEqualsCanonicalizing($off, array_column(Client::as('hanne')->call('GET', '/api/editions/gate')->json()['samples'], 'key'));
        foreach (['rule' => 'rank_fault', 'days' => 3, 'edition' => 1] as $strange => $value) {
            $answer = self::$client->call('POST', '/api/work', ['kind' => 'replay', $strange => $value]);
            self::assertSame([422, '/'.$strange], [$answer->status, $answer->json()['errors'][0]['pointer']]);
        }
        self::assertSame(422, self::$client->call('GET', '/api/work/'.$asked['number'].'?result=perhaps')->status);
        // whoever asks for the same is told of the same
        $again = self::$client->call('POST', '/api/work', ['kind' => 'replay']);
        self::assertSame([200, $asked['number']], [$again->status, $again->json()['number']]);
    }

    public function test_an_edit_in_the_making_is_replayed_and_not_saved(): void
    {
        $part = self::$client->part('rules', 'rank_fault');
        $tree = $part['tree'];
        $tree['rows'][0]['then'][0] = '"soon"';
        $answer = self::$client->call('POST', '/api/replay', ['change' => ['kind' => 'rules', 'key' => 'rank_fault', 'tree' => $tree], 'trace' => 'sailing_fault_goes_to_the_chief'])->json();
        $sample = array_values(array_filter($answer['samples'], fn (array $s): bool => $s['key'] === 'sailing_fault_goes_to_the_chief'))[0];

        self::assertSame('differs', $sample['verdict']);
        self::assertSame(['record' => 'F1', 'field' => 'priority', 'expected' => 'sailing_at_risk', 'actual' => 'soon'], $sample['steps'][0]['differences'][0]);
        $look = array_values(array_filter($answer['traced']['steps'][0]['trace']['passes'][0]['rules'], fn (array $r): bool => $r['rule'] === 'rank_fault'))[0];
        self::assertTrue($look['rows'][0]['fits']);
        self::assertSame('soon', $look['changes'][0]['after']);
        self::assertSame($part, self::$client->part('rules', 'rank_fault'));
    }

    public function test_a_formula_being_typed_gets_its_error_at_its_place(): void
    {
        $tree = self::$client->part('rules', 'rank_fault')['tree'];
        $tree['rows'][0]['if'][1] = '> ';
        $answer = self::$client->call('POST', '/api/replay', ['change' => ['kind' => 'rules', 'key' => 'rank_fault', 'tree' => $tree]]);
        self::assertSame(422, $answer->status);
        self::assertSame('/tree/rows/0/if/1', $answer->json()['errors'][0]['pointer']);
        self::assertSame([2, 2], [$answer->json()['errors'][0]['from'], $answer->json()['errors'][0]['to']]);
    }

    public function test_bad_requests_are_told(): void
    {
        self::assertSame(422, self::$client->call('POST', '/api/replay', ['change' => ['kind' => 'types', 'key' => 'fault', 'tree' => ['a' => 1]]])->status);
        self::assertSame(422, self::$client->call('POST', '/api/replay', ['change' => 'x'])->status);
        self::assertSame(422, self::$client->call('POST', '/api/replay', ['trace' => 5])->status);
        self::assertNull(self::$client->call('POST', '/api/replay', ['trace' => 'nothing_such'])->json()['traced']);
    }

    public function test_a_deletion_has_a_trace_as_any_event_has(): void
    {
        $traced = self::$client->call('POST', '/api/replay', ['trace' => 'areas_count_what_lies_within', 'only' => 'areas_count_what_lies_within'])->json();
        self::assertCount(1, $traced['samples']);
        $last = $traced['traced']['steps'][2];
        self::assertSame(['deleted', 'F1', []], [$last['trace']['event']['kind'], $last['trace']['event']['record'], $last['trace']['changes']]);
        self::assertSame(['deletion_is_told'], array_column($last['trace']['passes'][0]['rules'], 'rule'));
        self::assertArrayNotHasKey('F1', $last['values']);
    }
}
