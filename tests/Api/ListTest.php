<?php

declare(strict_types=1);

namespace Sorvel\Tests\Api;

use PHPUnit\Framework\TestCase;
use Sorvel\Tests\DemoDatabase;

/** The working list: filter lines, saved views, the same change to many, files. */
final class ListTest extends TestCase
{
    private static Client $rafi;

    public static function setUpBeforeClass(): void
    {
        DemoDatabase::restore();
        self::$rafi = Client::as('rafi');
    }

    public function test_lines_filter_as_they_say(): void
    {
        $all = $this->tickets([]);
        $value = fn (array $t, string $key): mixed => $t['values'][$key] ?? null;
        foreach ([
            [['field' => 'priority', 'is' => 'any', 'of' => ['urgent', 'soon']], fn (array $t): bool => in_array($value($t, 'priority'), ['urgent', 'soon'], true)],
            [['field' => 'priority', 'is' => 'none', 'of' => ['urgent']], fn (array $t): bool => $value($t, 'priority') !== 'urgent'],
            [['field' => 'area', 'is' => 'empty'], fn (array $t): bool => $value($t, 'area') === null],
            [['field' => 'part', 'is' => 'filled'], fn (array $t): bool => $value($t, 'part') !== null],
            [['field' => 'assignee', 'is' => 'none', 'of' => ['greta']], fn (array $t): bool => $value($t, 'assignee') !== 'greta'],
            [['field' => 'state', 'is' => 'any', 'of' => ['open']], fn (array $t): bool => in_array($value($t, 'state'), ['logged', 'under_way', 'waiting_for_parts'], true)],
            [['field' => 'hours_down', 'is' => 'least', 'of' => [8]], fn (array $t): bool => ($value($t, 'hours_down') ?? -1) >= 8],
            [['field' => 'hours_down', 'is' => 'most', 'of' => [2]], fn (array $t): bool => $value($t, 'hours_down') !== null && $value($t, 'hours_down') <= 2],
            [['field' => 'title', 'is' => 'words', 'of' => ['LIGHT']], fn (array $t): bool => str_contains(strtolower($t['values']['title']), 'light')],
            [['field' => 'safety', 'is' => 'any', 'of' => [true]], fn (array $t): bool => $value($t, 'safety') === true],
            [['field' => 'created_at', 'is' => 'within', 'of' => ['30']], fn (array $t): bool => strtotime($t['values']['created_at']) >= time() - 30 * 86400],
            [['field' => 'mend_by', 'is' => 'most', 'of' => ['2026-10-01']], fn (array $t): bool => $value($t, 'mend_by') !== null && $value($t, 'mend_by') <= '2026-10-01'],
        ] as [$line, $holds]) {
            $expected = array_column(array_filter($all, $holds), 'id');
            self::assertNotSame([], $expected, (string) json_encode($line));
            self::assertLessThan(count($all), count($expected), (string) json_encode($line));
            self::assertEqualsCanonicalizing($expected, array_column($this->tickets([$line]), 'id'), (string) json_encode($line));
        }
        $both = $this->tickets([['field' => 'priority', 'is' => 'any', 'of' => ['urgent']], ['field' => 'requester', 'is' => 'any', 'of' => ['@me']]]);
        self::assertSame([['urgent', 'rafi']], array_values(array_unique(array_map(fn (array $t): array => [$t['values']['priority'], $t['values']['requester']], $both), SORT_REGULAR)));
    }

    public function test_lines_that_mean_nothing_say_where(): void
    {
        foreach (['x', '{"a": 1}', '[{"field": "colour", "is": "any", "of": ["x"]}]', '[{"field": "priority", "is": "like", "of": ["x"]}]', '[{"field": "priority", "is": "any"}]', '[{"field": "hours_down", "is": "least", "of": ["many"]}]', '[{"field": "title", "is": "least", "of": ["2"]}]', '[{"field": "title", "is": "words", "of": [["x"]]}]', '[5]'] as $lines) {
            self::assertSame(422, self::$rafi->call('GET', '/api/tickets?type=fault&lines='.rawurlencode($lines))->status, $lines);
        }
    }

    public function test_the_same_change_to_many_is_tried_and_saved(): void
    {
        $tickets = array_slice($this->tickets([['field' => 'state', 'is' => 'any', 'of' => ['logged']]]), 0, 3);
        $closed = array_slice($this->tickets([['field' => 'state', 'is' => 'any', 'of' => ['closed']]]), 0, 1);
        $named = array_map(fn (array $t): array => ['id' => $t['id'], 'version' => $t['version']], [...$tickets, ...$closed]);
        $named[] = ['id' => 'F-99999', 'version' => 1];
        $bulk = fn (string $mode, array $values, ?array $of = null): Answer => self::$rafi->call('POST', '/api/tickets/bulk', ['tickets' => $of ?? $named, 'values' => $values, 'mode' => $mode]);

        $answer = $bulk('try', ['state' => 'under_way', 'claim_number' => 'N-1']);
        self::assertSame(200, $answer->status, $answer->body);
        $tried = $answer->json()['fates'];
        self::assertSame(['refused', 'refused'], [$tried[0]['fate'], $tried[3]['fate']]);
        self::assertStringContainsString('under warranty', implode(' ', $tried[0]['reasons']));
        $answer = $bulk('try', ['state' => 'under_way']);
        self::assertSame(200, $answer->status, $answer->body);
        $tried = $answer->json()['fates'];
        self::assertSame(['changed', 'changed', 'changed', 'changed', 'gone'], array_column($tried, 'fate'));
        self::assertContains('fault_progress', $tried[0]['rules']);
        self::assertSame('logged', self::$rafi->call('GET', '/api/tickets/'.$tickets[0]['id'])->json()['ticket']['values']['state'], 'a trial saves nothing');

        self::$rafi->call('PATCH', '/api/tickets/'.$tickets[1]['id'], ['values' => ['hours_down' => 99]], ['If-Match' => '"'.$tickets[1]['version'].'"']);
        $saved = $bulk('save', ['state' => 'under_way'])->json()['fates'];
        self::assertSame(['changed', 'stale', 'changed', 'changed', 'gone'], array_column($saved, 'fate'));
        self::assertSame('under_way', self::$rafi->call('GET', '/api/tickets/'.$tickets[0]['id'])->json()['ticket']['values']['state']);
        foreach ([[[], null], [['state' => 'x'], array_fill(0, 51, $named[0])], [['state' => 'x'], [['id' => 5]]]] as [$values, $of]) {
            self::assertSame(422, $bulk('save', $values, $of)->status);
        }
    }

    public function test_what_many_read_is_fetched_as_sets(): void
    {
        $faults = array_map(fn (array $t): array => ['id' => $t['id'], 'version' => $t['version']], array_slice($this->tickets([['field' => 'part', 'is' => 'filled'], ['field' => 'vessel', 'is' => 'filled']]), 0, 30));
        self::assertCount(30, $faults);
        $database = DemoDatabase::connection();
        $count = function () use ($database): int {
            $status = $database->query("SHOW GLOBAL STATUS LIKE 'Com_select'");
            self::assertNotFalse($status);

            return is_numeric($selects = $status->fetchColumn(1)) ? (int) $selects : 0;
        };
        $asks = function (array $tickets) use ($count): int {
            $before = $count();
            $fates = self::$rafi->call('POST', '/api/tickets/bulk', ['tickets' => $tickets, 'values' => ['part' => 'PT-03', 'part_family' => null], 'mode' => 'try'])->json()['fates'];
            self::assertSame([], array_diff(array_column($fates, 'fate'), ['changed', 'same']));

            return $count() - $before;
        };
        $asks(array_slice($faults, 0, 2));
        $few = $asks(array_slice($faults, 0, 4));
        self::assertLessThan($few + 26, $asks($faults), 'twenty-six more tickets cost less than a question each');
    }

    public function test_a_list_as_a_file_and_back(): void
    {
        $csv = self::$rafi->call('GET', '/api/export/fault.csv?columns=title,vessel,impact,mend_by,assignee&filter[vessel]=V-03&sort=number')->body;
        $rows = array_map(fn (string $line): array => str_getcsv($line, escape: ''), explode("\n", trim($csv)));
        self::assertSame(['Id', 'Title', 'Vessel', 'Impact', 'Mend by', 'Assignee'], $rows[0]);
        self::assertSame(['Marsh Wren (V-03)'], array_values(array_unique(array_column(array_slice($rows, 1), 2))));
        self::assertCount(self::$rafi->call('GET', '/api/tickets?type=fault&filter[vessel]=V-03')->json()['total'] + 1, $rows);

        // every field of every vessel goes out and comes back as the same
        $ines = Client::as('ines');
        $all = $ines->call('GET', '/api/export/vessel.csv')->body;
        $import = $ines->call('POST', '/api/imports?type=vessel', $all, ['Content-Type' => 'text/csv'])->json();
        $ines->call('POST', '/api/imports/'.$import['import'], ['act' => 'try', 'matching' => $import['matching'], 'key' => 'id']);
        do {
            usleep(100_000);
            $now = $ines->call('GET', '/api/imports/'.$import['import'])->json();
        } while ($now['stage'] === 'trying');
        self::assertSame([7, 0], [$now['counts']['same'], $now['counts']['refused']]);

        $json = self::$rafi->call('GET', '/api/export/tickets.json?q=F-1')->body;
        self::assertSame('F-1', ((array) json_decode($json, true))[0]['id']);
        self::assertSame([], self::$rafi->call('GET', '/api/export/fault.json?q=nothing+like+it')->json());
        self::assertSame(422, self::$rafi->call('GET', '/api/export/fault.csv?columns=colour')->status);
        self::assertSame(404, self::$rafi->call('GET', '/api/export/nothing.csv')->status);
    }

    public function test_cells_that_spreadsheets_would_run_are_made_harmless(): void
    {
        $made = self::$rafi->call('POST', '/api/tickets', ['type' => 'request', 'values' => ['title' => '=HYPERLINK("http://x.example")', 'need' => 'supplies']])->json()['ticket'];
        self::assertStringContainsString("\"'=HYPERLINK", self::$rafi->call('GET', '/api/export/request.csv?columns=title&q='.$made['id'])->body);
    }

    public function test_views_are_ones_own_unless_shared(): void
    {
        $ines = Client::as('ines');
        $mine = self::$rafi->call('POST', '/api/views', ['name' => 'Mine', 'query' => 'type=fault'])->json();
        $shared = self::$rafi->call('POST', '/api/views', ['name' => 'For all', 'query' => 'type=request', 'shared' => true])->json();
        self::assertSame(['For all'], array_column($ines->call('GET', '/api/views')->json()['views'], 'name'));
        self::assertSame(404, $ines->call('PUT', '/api/views/'.$shared['view'], ['name' => 'Taken', 'query' => ''])->status);
        self::assertSame(404, $ines->call('DELETE', '/api/views/'.$mine['view'])->status);
        self::assertSame('Renamed', self::$rafi->call('PUT', '/api/views/'.$mine['view'], ['name' => 'Renamed', 'query' => 'type=fault'])->json()['name']);
        self::assertSame(204, self::$rafi->call('DELETE', '/api/views/'.$mine['view'])->status);
        self::assertSame(422, self::$rafi->call('POST', '/api/views', ['name' => '  ', 'query' => ''])->status);
        self::assertSame(422, self::$rafi->call('POST', '/api/views', ['name' => 'x', 'query' => str_repeat('x', 8001)])->status);
    }

    /**
     * @param  list<array<string, mixed>>  $lines
     * @return list<array<string, mixed>>
     */
    private function tickets(array $lines): array
    {
        $found = [];
        $cursor = '';
        do {
            $page = self::$rafi->call('GET', '/api/tickets?type=fault&limit=200&cursor='.$cursor.($lines === [] ? '' : '&lines='.rawurlencode((string) json_encode($lines))))->json();
            array_push($found, ...$page['tickets']);
            $cursor = $page['next'];
        } while ($cursor !== null);

        return $found;
    }
}
