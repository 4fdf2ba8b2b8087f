<?php

declare(strict_types=1);

namespace Sorvel\Tests\Api;

use PHPUnit\Framework\TestCase;
use Sorvel\Tests\DemoDatabase;

/** What follows from other records: counted anew, and brought into line; and the reports. */
final class LineTest extends TestCase
{
    public static function setUpBeforeClass(): void
    {
        DemoDatabase::restore();
    }

    public function test_nothing_is_out_of_line_until_somebody_meddles(): void
    {
        $ines = Client::as('ines');
        $check = $this->check($ines, false);
        self::assertSame([[], 'done'], [$check['found'], $check['stage']], (string) json_encode($check['found']));
        self::assertGreaterThan(200, $check['total']);

        $database = DemoDatabase::connection();
        $fault = $ines->call('GET', '/api/tickets?type=fault&filter[part]=PT-01')->json()['tickets'][0];
        $database->exec("UPDATE record SET field_values = JSON_SET(field_values, '$.part_code', 'XXX-9') WHERE id = '{$fault['id']}'");
        $database->exec("UPDATE record SET field_values = JSON_SET(field_values, '$.open_faults', 999) WHERE id = 'V-01'");
        $found = array_column($this->check($ines, false)['found'], null, 'field');
        self::assertSame(['part_code', 'open_faults'], array_values(array_intersect(['part_code', 'open_faults'], array_keys($found))));
        self::assertSame(['mirror', 1, $fault['id'], 'XXX-9', 'GBX-4'], [$found['part_code']['kind'], $found['part_code']['out'], $found['part_code']['examples'][0]['record'], $found['part_code']['examples'][0]['is'], $found['part_code']['examples'][0]['should']]);
        self::assertSame(['tally', 999], [$found['open_faults']['kind'], $found['open_faults']['examples'][0]['is']]);

        $this->check($ines, true);
        self::assertSame([], $this->check($ines, false)['found']);
        self::assertSame('GBX-4', $ines->call('GET', '/api/tickets/'.$fault['id'])->json()['ticket']['values']['part_code']);
    }

    public function test_reports_add_up(): void
    {
        $rafi = Client::as('rafi');
        $report = $rafi->call('GET', '/api/reports/fault?weeks=30')->json();
        $all = $rafi->call('GET', '/api/tickets?type=fault')->json()['total'];
        $open = $rafi->call('GET', '/api/tickets?type=fault&filter[state]=open')->json()['total'];
        self::assertSame($all, array_sum(array_column($report['states'], 'tickets')));
        self::assertSame($open, array_sum(array_column($report['load'], 'total')));
        self::assertSame($all, array_sum(array_column($report['incoming'], 'total')), 'all came in within thirty weeks');
        self::assertSame(['priority', 'progress'], [$report['by'], $report['percent']]);
        self::assertSame(100, array_column($report['states'], 'average', 'state')['fixed']);
        $ranking = $rafi->call('GET', '/api/reports/proposal')->json()['ranking'];
        self::assertSame('score', $rafi->call('GET', '/api/reports/proposal')->json()['rank']);
        $scores = array_column($ranking, 'value');
        $sorted = $scores;
        rsort($sorted);
        self::assertSame($sorted, $scores);

        $csv = explode("\n", trim($rafi->call('GET', '/api/reports/fault/load.csv')->body));
        self::assertSame('Assignee,Routine,Soon,Urgent,"Sailing at risk",None,All', $csv[0]);
        self::assertCount(count($report['load']) + 1, $csv);
        foreach (['ranking', 'states', 'incoming'] as $name) {
            self::assertSame(200, $rafi->call('GET', "/api/reports/fault/$name.csv")->status);
        }
        self::assertSame(404, $rafi->call('GET', '/api/reports/fault/nothing.csv')->status);
        self::assertSame(404, $rafi->call('GET', '/api/reports/vessel')->status);
        foreach (['rank=title', 'by=vessel', 'weeks=0'] as $wrong) {
            self::assertSame(422, $rafi->call('GET', '/api/reports/fault?'.$wrong)->status);
        }
    }

    /** @return array<string, mixed> */
    private function check(Client $client, bool $mends): array
    {
        self::assertSame(201, $client->call('POST', '/api/checks', ['mends' => $mends])->status);
        for ($i = 0; $i < 300; $i++) {
            $check = $client->call('GET', '/api/checks')->json()['check'];
            if ($check['stage'] !== 'running') {
                return $check;
            }
            usleep(100_000);
        }
        self::fail('The check did not end.');
    }
}
