<?php

declare(strict_types=1);

namespace Sorvel\Tests\Api;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Sorvel\Tests\DemoDatabase;

/** Files of records: read, matched, tried, run, undone. */
final class ImportTest extends TestCase
{
    private static Client $ines;

    public static function setUpBeforeClass(): void
    {
        DemoDatabase::restore();
        self::$ines = Client::as('ines');
    }

    public function test_a_file_is_matched_tried_run_and_undone(): void
    {
        $csv = "\xEF\xBB\xBFName;Code;Family;Maker;Remark\n\"Gearbox 4\";GBX-4;Hydraulics;Northlight Hydraulics;changed\n\"Rope; guide\";RPG-1;Doors and hinges (PF-3);;\"two\nlines\"\nBroken;not a code;;;refused\nLost;LST-1;Nowhere;;refused\nTwice;RPG-1;;;refused\nShort;ABC-1\n";
        $import = $this->send('part', $csv)->json();
        self::assertSame(['Name' => 'name', 'Code' => 'code', 'Family' => 'family', 'Maker' => 'maker'], $import['matching']);
        self::assertSame([6, 'read'], [$import['total'], $import['stage']]);
        $before = $this->parts();

        $tried = $this->act($import['import'], ['act' => 'try', 'matching' => $import['matching'], 'key' => 'code'], 'tried');
        self::assertSame([1, 1, 0, 4], [$tried['counts']['create'], $tried['counts']['update'], $tried['counts']['same'], $tried['counts']['refused']]);
        self::assertSame($before, $this->parts(), 'a trial saves nothing');
        $reasons = array_column(self::$ines->call('GET', '/api/imports/'.$import['import'].'/rows?fate=refused')->json()['rows'], 'reasons', 'number');
        self::assertStringContainsString('form [A-Z]{2,4}-[0-9]+', $reasons[4][0]);
        self::assertStringContainsString('there is no part family "Nowhere"', $reasons[5][0]);
        self::assertStringContainsString('the key of row 3 too', $reasons[6][0]);
        self::assertStringContainsString('Cells in this row: 2; columns in the header: 5', $reasons[7][0]);

        $done = $this->act($import['import'], ['act' => 'run'], 'done');
        self::assertSame([1, 1, 4, 6], [$done['counts']['create'], $done['counts']['update'], $done['counts']['refused'], $done['counts']['done']]);
        $parts = array_column($this->parts(), 'values', 'id');
        self::assertSame('PF-2', $parts['PT-01']['family']);
        self::assertContains('RPG-1', array_column($parts, 'code'));
        self::assertSame(409, self::$ines->call('POST', '/api/imports/'.$import['import'], ['act' => 'run'])->status);

        self::assertSame(2, $this->act($import['import'], ['act' => 'undo'], 'undone')['counts']['undone']);
        $values = fn (array $parts): array => array_column($parts, 'values', 'id');
        self::assertEquals($values($before), $values($this->parts()), 'as it was');
    }

    public function test_an_undo_keeps_what_others_changed_since(): void
    {
        $import = $this->send('quay', "id,name\nQ-1,Tolvane inner harbour\nQ-2,Saltmere pier\n")->json();
        $this->act($import['import'], ['act' => 'try', 'matching' => ['id' => 'id', 'name' => 'name'], 'key' => 'id'], 'tried');
        $this->act($import['import'], ['act' => 'run'], 'done');
        $quay = self::$ines->call('GET', '/api/registers/quay?q=Q-2')->json()['records'][0];
        self::$ines->call('PATCH', '/api/registers/quay/Q-2', ['values' => ['name' => 'Saltmere jetty']], ['If-Match' => '"'.$quay['version'].'"']);
        $undone = $this->act($import['import'], ['act' => 'undo'], 'undone');
        self::assertSame([1, 1], [$undone['counts']['undone'], $undone['counts']['kept']]);
        $names = array_column(array_column(self::$ines->call('GET', '/api/registers/quay')->json()['records'], 'values', 'id'), 'name');
        self::assertContains('Saltmere jetty', $names);
        self::assertContains('Tolvane harbour', $names);
    }

    public function test_tickets_are_imported_through_guards_rules_and_tallies(): void
    {
        $before = self::$ines->call('GET', '/api/registers/vessel?q=V-05')->json()['records'][0]['values']['open_faults'];
        $json = json_encode([['title' => 'Mast light out', 'vessel' => 'V-05', 'impact' => 'sailing', 'hours_down' => 6], ['title' => 'Claim', 'claim_number' => 'X-1'], ['title' => 'Seat torn', 'vessel' => 'Stone Curlew', 'found_by' => ['eye', 'round'], 'impact' => 'Passenger comfort']]);
        $import = $this->send('fault', (string) $json, 'application/json')->json();
        $tried = $this->act($import['import'], ['act' => 'try', 'matching' => $import['matching'], 'key' => null], 'tried');
        self::assertSame([2, 1], [$tried['counts']['create'], $tried['counts']['refused']]);
        $this->act($import['import'], ['act' => 'run'], 'done');
        $rows = self::$ines->call('GET', '/api/imports/'.$import['import'].'/rows')->json()['rows'];
        self::assertStringContainsString('only while the part is under warranty', $rows[1]['reasons'][0]);
        $page = self::$ines->call('GET', '/api/tickets/'.$rows[0]['record'])->json();
        self::assertSame(['sailing_at_risk', 'ines'], [$page['ticket']['values']['priority'], $page['history'][0]['by']]);
        self::assertSame($before + 2, self::$ines->call('GET', '/api/registers/vessel?q=V-05')->json()['records'][0]['values']['open_faults']);
    }

    public function test_a_tree_comes_in_one_file_and_two_imports_make_no_twins(): void
    {
        $csv = "id,name,within\nA-90,Shore side,\nA-91,Waiting hall,A-90\nA-92,Ticket desk,Waiting hall\n";
        $ids = [$this->send('area', $csv)->json()['import'], $this->send('area', $csv)->json()['import']];
        foreach ($ids as $id) {
            $tried = $this->act($id, ['act' => 'try', 'matching' => ['id' => 'id', 'name' => 'name', 'within' => 'within'], 'key' => 'id'], 'tried');
            self::assertSame(0, $tried['counts']['refused']);
        }
        foreach ($ids as $id) {
            self::$ines->call('POST', "/api/imports/$id", ['act' => 'run']);
        }
        $counts = array_map(fn (int $id): array => $this->reached($id, 'done')['counts'], $ids);
        self::assertSame([3, 3], [array_sum(array_column($counts, 'create')), array_sum(array_column($counts, 'same'))]);
    }

    /** @return iterable<string, array{string, string, string}> */
    public static function unreadable(): iterable
    {
        yield 'nothing' => ['', 'text/csv', 'The file is empty'];
        yield 'a header only' => ["name,code\n", 'text/csv', 'holds no rows'];
        yield 'another encoding' => ["name\nM\xF6we\n", 'text/csv', 'Row 2 is not UTF-8'];
        yield 'columns of one name' => ["name,Name\na,b\n", 'text/csv', 'Two columns are called "name"'];
        yield 'a column without a name' => ["name,,code\na,b,c\n", 'text/csv', 'A column has no name'];
        yield 'a page' => ["<!doctype html><p>Sorry</p>\n", 'text/csv', 'This is not a CSV file'];
        yield 'no JSON' => ['[{', 'application/json', 'not readable JSON'];
        yield 'JSON of another shape' => ['{"a": 1}', 'application/json', 'no list of records'];
        yield 'a list of lists' => ['[[1, 2]]', 'application/json', 'Record 1 is not an object'];
        yield 'a million rows' => ["name\n".str_repeat("x\n", 1_000_000), 'text/csv', 'more than 100,000 rows'];
    }

    #[DataProvider('unreadable')]
    public function test_a_file_that_cannot_be_read_says_why(string $body, string $type, string $why): void
    {
        $answer = $this->send('part', $body, $type);
        self::assertSame(422, $answer->status, $answer->body);
        self::assertStringContainsString($why, $answer->json()['title']);
        self::assertNotSame('', $answer->json()['detail']);
    }

    public function test_other_encodings_are_taken_when_named_or_marked(): void
    {
        self::assertSame(201, $this->send('part', "name\nM\xF6we\n", 'text/csv', '&encoding=Windows-1252')->status);
        $id = $this->send('part', "\xFF\xFE".mb_convert_encoding("name\tcode\nMöwe\tMOW-1\n", 'UTF-16LE'))->json()['import'];
        self::assertSame(['Möwe', 'MOW-1'], self::$ines->call('GET', "/api/imports/$id/rows")->json()['rows'][0]['cells']);
        self::assertSame(422, $this->send('part', "name\nx\n", 'text/csv', '&encoding=EBCDIC')->status);
    }

    public function test_columns_must_match_and_roles_hold(): void
    {
        $id = $this->send('vessel', "a,b,c\n1,2,3\n")->json()['import'];
        $answer = self::$ines->call('POST', "/api/imports/$id", ['act' => 'try', 'matching' => ['a' => 'open_faults', 'b' => 'nothing', 'd' => 'name', 'c' => 'name'], 'key' => 'berths']);
        self::assertSame(['/matching/a', '/matching/b', '/matching/d', '/matching/c', '/key'], array_column($answer->json()['errors'], 'pointer'));
        self::assertSame(422, self::$ines->call('POST', "/api/imports/$id", ['act' => 'explode'])->status);
        self::assertSame(409, self::$ines->call('POST', "/api/imports/$id", ['act' => 'undo'])->status);
        self::assertSame(422, $this->send('nothing', "name\nx\n")->status);
        self::assertSame(403, Client::as('rafi')->call('POST', '/api/imports?type=part', "name\nx\n", ['Content-Type' => 'text/csv'])->status);
    }

    private function send(string $type, string $body, string $as = 'text/csv', string $more = ''): Answer
    {
        return self::$ines->call('POST', '/api/imports?type='.$type.$more, $body, ['Content-Type' => $as]);
    }

    /**
     * @param  array<string, mixed>  $body
     * @return array<string, mixed>
     */
    private function act(int $import, array $body, string $until): array
    {
        $answer = self::$ines->call('POST', "/api/imports/$import", $body);
        self::assertSame(200, $answer->status, $answer->body);

        return $this->reached($import, $until);
    }

    /** @return array<string, mixed> */
    private function reached(int $import, string $stage): array
    {
        for ($i = 0; $i < 200; $i++) {
            $now = self::$ines->call('GET', "/api/imports/$import")->json();
            if ($now['stage'] === $stage) {
                return $now;
            }
            usleep(100_000);
        }
        self::fail('It stays '.$now['stage'].': '.$now['problem']);
    }

    /** @return list<array<string, mixed>> */
    private function parts(): array
    {
        return self::$ines->call('GET', '/api/registers/part?sort=name&limit=200')->json()['records'];
    }
}
