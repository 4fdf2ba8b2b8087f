<?php

declare(strict_types=1);

namespace Sorvel\Tests\Api;

use PHPUnit\Framework\TestCase;
use Sorvel\Tests\DemoDatabase;

/** Findings of the draft: told, accepted with a reason, and in the way of an edition while they are open. */
final class FindingTest extends TestCase
{
    public static function setUpBeforeClass(): void
    {
        DemoDatabase::restore();
    }

    public function test_a_finding_is_accepted_with_a_reason_and_opened_again(): void
    {
        $ines = Client::as('ines');
        $all = $ines->call('GET', '/api/findings')->json()['findings'];
        $one = $all[0];
        self::assertNull($one['accepted']);
        $path = '/api/findings/'.$one['id'].'/accepted';
        foreach (['', ' ', str_repeat('x', 1001)] as $reason) {
            self::assertSame(422, $ines->call('PUT', $path, ['reason' => $reason])->status);
        }
        self::assertSame(404, $ines->call('PUT', '/api/findings/nothing/accepted', ['reason' => 'x'])->status);
        self::assertSame('ines', $ines->call('PUT', $path, ['reason' => 'It is meant so.'])->json()['by']);
        self::assertSame('It is meant so.', $this->find($ines, $one['id'])['accepted']['reason'] ?? null);
        self::assertSame(200, $ines->call('PUT', $path, ['reason' => 'Better said.'])->status);
        self::assertSame('Better said.', $this->find($ines, $one['id'])['accepted']['reason'] ?? null);
        self::assertSame(204, $ines->call('DELETE', $path)->status);
        self::assertNull($this->find($ines, $one['id'])['accepted']);
        self::assertSame(404, $ines->call('DELETE', $path)->status);
    }

    public function test_a_blocking_finding_stands_in_the_way_until_it_is_accepted_or_mended(): void
    {
        $hanne = Client::as('hanne');
        $part = $hanne->part('rules', 'rank_request');
        $tree = ['questions' => [['ask' => 'And in the holidays?']]] + $part['tree'];
        $hanne->save('rules', 'rank_request', $tree, $part['version']);
        $gate = $hanne->call('GET', '/api/editions/gate')->json();
        self::assertSame(['"Rank a request by need and number of people" has an unanswered question: And in the holidays?'], array_column($gate['findings'], 'says'));
        $blocked = $hanne->call('POST', '/api/editions', ['note' => 'A question.']);
        self::assertSame([409, $gate['findings']], [$blocked->status, $blocked->json()['findings']]);

        $hanne->call('PUT', '/api/findings/'.$gate['findings'][0]['id'].'/accepted', ['reason' => 'They are asked next week.']);
        self::assertSame([], $hanne->call('GET', '/api/editions/gate')->json()['findings']);
    }

    public function test_missing_samples_are_proposed_by_the_workers_and_fit_the_draft(): void
    {
        DemoDatabase::connection()->exec("DELETE FROM draft_part WHERE kind = 'samples' AND part_key = 'refit_progress_line_by_line'");
        $ines = Client::as('ines');
        self::assertSame(422, $ines->call('POST', '/api/work', ['kind' => 'magic'])->status);
        self::assertSame(422, $ines->call('POST', '/api/work', ['kind' => 'propose', 'rule' => 'no_such_rule'])->status);
        self::assertSame(404, $ines->call('GET', '/api/work/999')->status);
        $work = $ines->call('POST', '/api/work', ['kind' => 'propose', 'rule' => 'refit_progress'])->json();
        self::assertSame([1, true], [$work['chunks'], $work['current']]);
        $done = $this->finished($ines, $work['number']);
        self::assertNotEmpty($done['result']['proposed']);
        self::assertSame($done, $ines->call('GET', '/api/work?kind=propose')->json()['work']);
        foreach ($done['result']['proposed'] as $proposed) {
            self::assertSame('refit_progress', $proposed['rule']);
            self::assertSame(201, $ines->call('POST', '/api/draft/samples', ['tree' => $proposed['tree'], 'position' => null])->status, (string) json_encode($proposed['tree']));
        }
        $keys = array_column(array_column($done['result']['proposed'], 'tree'), 'key');
        $verdicts = array_column($ines->call('POST', '/api/replay', ['change' => null, 'trace' => null, 'only' => null])->json()['samples'], 'verdict', 'key');
        self::assertSame(array_fill_keys($keys, 'agrees'), array_intersect_key($verdicts, array_flip($keys)));
        self::assertFalse($ines->call('GET', '/api/work?kind=propose')->json()['work']['current'], 'the draft has other samples now');
        $again = $this->finished($ines, $ines->call('POST', '/api/work', ['kind' => 'propose', 'rule' => 'refit_progress'])->json()['number']);
        self::assertSame([], $again['result']['proposed']);
    }

    public function test_long_work_is_stopped_and_gone_on_with(): void
    {
        $ines = Client::as('ines');
        $work = $ines->call('POST', '/api/work', ['kind' => 'notice'])->json();
        $stopped = $ines->call('POST', '/api/work/'.$work['number'], ['act' => 'stop'])->json();
        self::assertTrue($stopped['stopped']);
        self::assertSame(422, $ines->call('POST', '/api/work/'.$work['number'], ['act' => 'dance'])->status);
        sleep(4);
        $rest = $ines->call('GET', '/api/work/'.$work['number'])->json();
        self::assertLessThan($rest['chunks'], $rest['done']);
        self::assertFalse($ines->call('POST', '/api/work/'.$work['number'], ['act' => 'go_on'])->json()['stopped']);
        $done = $this->finished($ines, $work['number']);
        self::assertGreaterThan(300, $done['result']['tried']);
        self::assertGreaterThanOrEqual(0.95, 1 - count($done['result']['unnoticed']) / $done['result']['tried'], 'the demo notices nearly all');
        self::assertNotSame([], $done['result']['unnoticed']);
    }

    /** @return array<string, mixed> */
    private function find(Client $client, string $id): array
    {
        foreach ($client->call('GET', '/api/findings')->json()['findings'] as $finding) {
            if ($finding['id'] === $id) {
                return $finding;
            }
        }
        self::fail('It is not there any more.');
    }

    /** @return array<string, mixed> */
    private function finished(Client $client, int $number): array
    {
        for ($tries = 0; $tries < 600; $tries++) {
            $work = $client->call('GET', '/api/work/'.$number)->json();
            if ($work['done'] === $work['chunks']) {
                return $work;
            }
            usleep(200_000);
        }
        self::fail('The workers do not come to an end.');
    }
}
