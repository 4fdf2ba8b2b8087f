<?php

declare(strict_types=1);

namespace Sorvel\Tests\Api;

use PHPUnit\Framework\TestCase;
use Sorvel\Tests\DemoDatabase;

/** What a draft would have made of what has happened on the desk. */
final class ImpactTest extends TestCase
{
    private static Client $ines;

    public static function setUpBeforeClass(): void
    {
        DemoDatabase::restore();
        self::$ines = Client::as('ines');
    }

    public function test_a_mistake_in_the_draft_shows_in_past_events_down_to_one_of_them(): void
    {
        $same = $this->finished();
        self::assertSame(0, $same['result']['counts']['otherwise'], 'the draft is the edition: '.json_encode($same['result']['fields']));
        self::assertGreaterThan(500, $same['result']['counts']['events']);

        $part = self::$ines->part('rules', 'rank_fault');
        $tree = $part['tree'];
        $tree['rows'][0]['if'][1] = '> 40';
        self::$ines->save('rules', 'rank_fault', $tree, $part['version']);
        self::assertFalse(self::$ines->call('GET', '/api/work?kind=impact')->json()['work']['current']);
        $work = $this->finished();
        self::assertGreaterThan(5, $work['result']['counts']['otherwise']);
        self::assertSame(0, $work['result']['counts']['not_known']);
        self::assertContains('priority', array_column($work['result']['fields'], 'field'));
        self::assertContains('rank_fault', array_column($work['result']['rules'], 'rule'));

        $number = $work['result']['lines'][0]['number'];
        $one = self::$ines->call('GET', "/api/past/$number")->json();
        self::assertSame('sailing_at_risk', $one['edition']['values']['priority']);
        self::assertSame('urgent', $one['draft']['values']['priority']);
        self::assertSame([0, 1], [$this->hit($one['edition']), $this->hit($one['draft'])]);
        self::assertSame(404, self::$ines->call('GET', '/api/past/99999999')->status);

        $sample = self::$ines->call('GET', "/api/past/$number/sample")->json()['tree'];
        self::assertSame(201, self::$ines->call('POST', '/api/draft/samples', ['tree' => $sample, 'position' => null])->status, (string) json_encode($sample));
        $verdict = fn (): string => array_column(self::$ines->call('POST', '/api/replay', ['change' => null, 'trace' => null, 'only' => $sample['key']])->json()['samples'], 'verdict', 'key')[$sample['key']];
        self::assertSame('differs', $verdict(), 'the mistake shows');
        $part = self::$ines->part('rules', 'rank_fault');
        $tree['rows'][0]['if'][1] = '> 4';
        self::$ines->save('rules', 'rank_fault', $tree, $part['version']);
        self::assertSame('agrees', $verdict(), 'mended');
    }

    public function test_events_go_out_and_come_in_as_json_lines(): void
    {
        $count = self::$ines->call('GET', '/api/past')->json()['count'];
        $lines = array_filter(explode("\n", self::$ines->call('GET', '/api/past.jsonl')->body));
        self::assertCount($count, $lines);
        $greta = Client::as('greta');
        $type = ['Content-Type' => 'application/jsonl'];
        self::assertSame(403, self::$ines->call('POST', '/api/past.jsonl', $lines[0], $type)->status);
        $bad = $greta->call('POST', '/api/past.jsonl', $lines[0]."\n{\"kind\":1}\n", $type);
        self::assertSame([422, '/2'], [$bad->status, $bad->json()['errors'][0]['pointer']]);
        self::assertSame($count, self::$ines->call('GET', '/api/past')->json()['count'], 'all or none');
        self::assertSame(['count' => 2], $greta->call('POST', '/api/past.jsonl', $lines[0]."\n\n".$lines[1]."\n", $type)->json());
        self::assertSame($count + 2, self::$ines->call('GET', '/api/past')->json()['count']);
    }

    /** @param  array<string, mixed>  $side */
    private function hit(array $side): ?int
    {
        foreach ($side['trace']['passes'][0]['rules'] as $look) {
            foreach ($look['rule'] === 'rank_fault' ? $look['rows'] : [] as $row) {
                if ($row['fits']) {
                    return $row['row'];
                }
            }
        }

        return null;
    }

    /** @return array<string, mixed> */
    private function finished(): array
    {
        $number = self::$ines->call('POST', '/api/work', ['kind' => 'impact'])->json()['number'];
        for ($tries = 0; $tries < 300; $tries++) {
            $work = self::$ines->call('GET', '/api/work/'.$number)->json();
            if ($work['done'] === $work['chunks']) {
                return $work;
            }
            usleep(100_000);
        }
        self::fail('The workers do not come to an end.');
    }
}
