<?php

declare(strict_types=1);

namespace Sorvel\Tests\Api;

use PHPUnit\Framework\TestCase;
use Sorvel\Tests\DemoDatabase;

final class TicketTest extends TestCase
{
    private static Client $client;

    public static function setUpBeforeClass(): void
    {
        DemoDatabase::restore();
        self::$client = Client::as('rafi');
    }

    public function test_rules_act_on_a_new_ticket_and_its_history_names_them(): void
    {
        $saved = $this->create(['title' => 'Bow door stuck', 'vessel' => 'V-01', 'impact' => 'sailing', 'hours_down' => 6.5]);
        $values = $saved['ticket']['values'];

        self::assertSame(['sailing_at_risk', 'ines', 'deck', 6.5, 'rafi'], [$values['priority'], $values['assignee'], $values['team'], $values['hours_down'], $values['created_by']]);
        self::assertContains('sailing', $values['tags']);
        $ticket = self::$client->call('GET', '/api/tickets/'.$saved['ticket']['id'])->json();
        self::assertSame('Alder Tern', $ticket['names']['V-01']);
        self::assertContains(['field' => 'priority', 'before' => null, 'after' => 'sailing_at_risk', 'rule' => 'rank_fault'], $ticket['history'][0]['changes']);
        $run = self::$client->call('GET', '/api/runs/'.$saved['run']['run'])->json();
        self::assertSame($saved['ticket']['id'], $run['record']);
        self::assertSame('carry_superintendent', $run['trace']['passes'][0]['rules'][0]['rule']);
    }

    public function test_a_dry_run_says_what_saving_does_and_saves_nothing(): void
    {
        $id = $this->create(['title' => 'Cabin cold', 'impact' => 'comfort', 'hours_down' => 1])['ticket']['id'];
        $before = self::$client->call('GET', "/api/tickets/$id")->json();
        $dry = self::$client->call('POST', "/api/tickets/$id/dry-run", ['values' => ['impact' => 'sailing']])->json();
        self::assertSame($before, self::$client->call('GET', "/api/tickets/$id")->json());
        $saved = $this->change($id, ['impact' => 'sailing'], $before['ticket']['version'])->json();

        self::assertSame($dry['changes'], $saved['run']['changes']);
        // the save may fall into the next second
        self::assertSame(['changed_at' => null] + $dry['values'], ['changed_at' => null] + $saved['ticket']['values']);
        self::assertSame('urgent', $saved['ticket']['values']['priority']);
        $new = self::$client->call('POST', '/api/tickets/dry-run', ['type' => 'fault', 'values' => ['title' => 'x', 'safety' => true]])->json();
        self::assertSame('urgent', $new['values']['priority']);
    }

    public function test_a_stale_save_is_shown_both_sides(): void
    {
        $ticket = $this->create(['title' => 'Lights out', 'impact' => 'nothing'])['ticket'];
        $this->change($ticket['id'], ['impact' => 'comfort'], $ticket['version']);
        $answer = $this->change($ticket['id'], ['title' => 'Mine'], $ticket['version']);

        self::assertSame(412, $answer->status);
        self::assertSame('comfort', $answer->json()['current']['values']['impact']);
        self::assertSame('Lights out', $this->values($ticket['id'])['title']);
        self::assertSame(428, self::$client->call('PATCH', '/api/tickets/'.$ticket['id'], ['values' => ['title' => 'x']])->status);
    }

    public function test_two_saves_at_the_same_moment_leave_one_standing(): void
    {
        $ticket = $this->create(['title' => 'Race', 'impact' => 'nothing'])['ticket'];
        $http = \Symfony\Component\HttpClient\HttpClient::create();
        $clients = [Client::as('rafi'), Client::as('ines')];
        $responses = array_map(fn (Client $c, string $title) => $http->request('PATCH', getenv('SORVEL_URL').'/api/tickets/'.$ticket['id'], ['headers' => ['Cookie' => $c->cookie(), 'X-Sorvel-Token' => $c->token, 'If-Match' => '"'.$ticket['version'].'"'], 'json' => ['values' => ['title' => $title]]]), $clients, ['One', 'Two']);
        $statuses = array_map(fn ($r): int => $r->getStatusCode(), $responses);
        sort($statuses);
        self::assertSame([200, 412], $statuses);
    }

    public function test_markup_in_a_title_stays_text(): void
    {
        $title = '<script>alert(1)</script> & <b>bold</b> "quoted"';
        self::assertSame($title, $this->create(['title' => $title])['ticket']['values']['title']);
    }

    public function test_bad_values_are_all_named_and_nothing_is_saved_or_run(): void
    {
        $count = self::$client->call('GET', '/api/tickets?limit=1')->json()['total'];
        $answer = self::$client->call('POST', '/api/tickets', ['type' => 'fault', 'values' => [
            'title' => str_repeat('x', 1_000_000), 'hours_down' => 'six', 'impact' => 'sailng', 'vessel' => 'V-99', 'assignee' => 'nils', 'colour' => 'red', 'number' => 'F-1', 'safety' => 'yes', 'tags' => 'two words', 'progress' => 101, 'part' => 'V-01', 'details' => ['a' => 1],
        ]]);
        self::assertSame(422, $answer->status);
        $says = ['title' => 'at most 500', 'hours_down' => 'must be a number', 'impact' => 'did you mean "sailing"', 'vessel' => 'no Vessel "V-99"', 'assignee' => 'no longer active', 'colour' => 'no field "colour"', 'number' => 'cannot be set', 'safety' => 'yes or no', 'tags' => 'not a tag', 'progress' => 'more than 100', 'part' => 'no Part', 'details' => 'must be a text'];
        foreach ($says as $field => $words) {
            self::assertStringContainsString($words, $answer->errors()['/values/'.$field] ?? 'not named: '.$field);
        }
        foreach ([['type' => 'falt', 'values' => ['title' => 'x']], ['type' => 'vessel', 'values' => ['name' => 'x']], ['type' => 'fault', 'values' => []], ['type' => 'fault', 'values' => [1, 2]], ['type' => 7, 'values' => ['title' => 'x']], ['values' => ['title' => 'x']]] as $body) {
            self::assertSame(422, self::$client->call('POST', '/api/tickets', $body)->status);
        }
        self::assertSame(404, self::$client->call('GET', '/api/tickets/F-99999')->status);
        self::assertSame(404, self::$client->call('GET', '/api/tickets/V-01')->status, 'a register record is no ticket');
        self::assertSame(404, self::$client->call('GET', '/api/runs/999999')->status);
        self::assertSame($count, self::$client->call('GET', '/api/tickets?limit=1')->json()['total']);
    }

    public function test_a_long_text_has_its_bound(): void
    {
        self::assertSame(201, self::$client->call('POST', '/api/tickets', ['type' => 'fault', 'values' => ['title' => 'Long', 'details' => str_repeat('é', 200_000)]])->status);
        self::assertSame(422, self::$client->call('POST', '/api/tickets', ['type' => 'fault', 'values' => ['title' => 'Long', 'details' => str_repeat('x', 1_000_000)]])->status);
    }

    public function test_a_move_that_is_not_allowed_is_refused(): void
    {
        $ticket = $this->create(['title' => 'Door'])['ticket'];
        $answer = $this->change($ticket['id'], ['state' => 'fixed'], $ticket['version']);
        self::assertStringContainsString('no move from "Logged" to "Fixed"', $answer->errors()['/values/state']);
    }

    public function test_the_list_filters_sorts_and_pages(): void
    {
        $list = fn (string $query): array => self::$client->call('GET', '/api/tickets?'.$query)->json();
        $open = $list('type=fault&filter[state]=open&filter[priority]=sailing_at_risk&limit=200');
        self::assertGreaterThan(5, $open['total']);
        foreach ($open['tickets'] as $ticket) {
            self::assertSame('sailing_at_risk', $ticket['values']['priority']);
            self::assertContains($ticket['values']['state'], ['logged', 'under_way', 'waiting_for_parts']);
        }
        $order = ['routine' => 1, 'soon' => 2, 'urgent' => 3, 'sailing_at_risk' => 4];
        $ranks = array_map(fn (array $t): int => $order[$t['values']['priority'] ?? ''] ?? 0, $list('type=fault&sort=-priority&limit=200')['tickets']);
        $sorted = $ranks;
        rsort($sorted);
        self::assertSame($sorted, $ranks, 'options sort by their order, not their letters');
        $seen = [];
        for ($cursor = '', $pages = 0; $pages < 20; $pages++) {
            $page = $list('sort=-changed_at&limit=60&cursor='.$cursor);
            array_push($seen, ...array_column($page['tickets'], 'id'));
            if ($page['next'] === null) {
                break;
            }
            $cursor = $page['next'];
        }
        self::assertSame($page['total'], count($seen));
        self::assertSame($seen, array_values(array_unique($seen)), 'no ticket twice');
        foreach (['priority', '-hours_down', 'assignee', 'number', '-created_at'] as $sort) {
            $first = $list("type=fault&limit=50&sort=$sort");
            $second = $list("type=fault&limit=50&sort=$sort&cursor=".$first['next']);
            self::assertSame([], array_intersect(array_column($first['tickets'], 'id'), array_column($second['tickets'], 'id')), $sort);
        }
        self::assertGreaterThan(0, $list('q=bow%20door')['total']);
        self::assertSame(1, $list('q=f-12')['total']);
        self::assertSame(0, $list('q=%25')['total'], 'a percent sign is a percent sign');
        foreach ($list('filter[tags]=sailing&limit=200')['tickets'] as $ticket) {
            self::assertContains('sailing', $ticket['values']['tags']);
        }
        foreach ($list('type=request&filter[assignee]=&limit=200')['tickets'] as $ticket) {
            self::assertArrayNotHasKey('assignee', $ticket['values']);
        }
        foreach (['type=vessel', 'filter[nothing]=1', 'sort=nothing', 'limit=0', 'limit=x', 'cursor=abc', 'filter=1', 'q[]=1'] as $bad) {
            self::assertSame(422, self::$client->call('GET', '/api/tickets?'.$bad)->status, $bad);
        }
    }

    public function test_any_event_becomes_a_sample_that_agrees(): void
    {
        $builder = Client::as('ines');
        $saved = $this->create(['title' => 'Gearbox howls', 'vessel' => 'V-02', 'part' => 'PT-01', 'impact' => 'sailing', 'hours_down' => 5]);
        $id = $saved['ticket']['id'];
        $created = $builder->call('POST', "/api/tickets/$id/sample", [])->json()['part'];
        self::assertSame(['gearbox_howls_grey_plover', $id, 'act'], [$created['key'], $created['tree']['taken_from'], $created['tree']['proves']]);
        self::assertEqualsCanonicalizing(['vessel', 'part', 'company'], array_keys($created['tree']['given']), 'with exactly what was read');
        $this->change($id, ['state' => 'under_way'], $saved['ticket']['version']);
        $changed = $builder->call('POST', "/api/tickets/$id/sample", [])->json()['part'];
        self::assertSame('gearbox_howls_grey_plover_2', $changed['key']);
        self::assertSame('logged', $changed['tree']['given']['fault'][0]['state']);
        $again = $builder->call('POST', "/api/tickets/$id/sample", ['run' => $saved['run']['run']])->json()['part'];
        self::assertSame($created['tree']['steps'], $again['tree']['steps']);
        $verdicts = array_column($builder->call('POST', '/api/replay', [])->json()['samples'], 'verdict', 'key');
        self::assertSame(['agrees', 'agrees', 'agrees'], [$verdicts['gearbox_howls_grey_plover'], $verdicts['gearbox_howls_grey_plover_2'], $verdicts['gearbox_howls_grey_plover_3']]);
        self::assertSame(404, $builder->call('POST', "/api/tickets/$id/sample", ['run' => 1])->status, 'an event of another ticket');
    }

    public function test_a_sample_is_kept_without_the_personal_data_of_requesters(): void
    {
        $builder = Client::as('ines');
        $id = Client::as('kit')->call('POST', '/api/ask', ['type' => 'fault', 'values' => ['title' => 'Kit Harrow cannot open door 4, write to kit.harrow@home.example', 'impact' => 'comfort']])->json()['ticket']['id'];
        $plain = (string) json_encode($builder->call('POST', "/api/tickets/$id/sample", [])->json()['part']['tree']);
        self::assertStringContainsString('"kit"', $plain);
        $part = $builder->call('POST', "/api/tickets/$id/sample", ['nameless' => true])->json()['part'];
        $nameless = (string) json_encode($part['tree']);
        self::assertStringNotContainsString('"kit"', $nameless);
        self::assertStringNotContainsString('Harrow', $part['tree']['steps'][0]['with']['title']);
        self::assertStringContainsString('somebody@mail.example', $nameless);
        $verdicts = array_column($builder->call('POST', '/api/replay', [])->json()['samples'], 'verdict', 'key');
        self::assertSame('agrees', $verdicts[$part['key']]);
    }

    public function test_records_are_found_by_name_for_pickers(): void
    {
        self::assertSame([['id' => 'V-03', 'name' => 'Marsh Wren']], self::$client->call('GET', '/api/records?type=vessel&q=marsh')->json()['records']);
        self::assertSame(404, self::$client->call('GET', '/api/records?type=nothing')->status);
    }

    /**
     * @param  array<string, mixed>  $values
     * @return array<string, mixed>
     */
    private function create(array $values): array
    {
        $answer = self::$client->call('POST', '/api/tickets', ['type' => 'fault', 'values' => $values]);
        self::assertSame(201, $answer->status, $answer->body);

        return $answer->json();
    }

    /** @param  array<string, mixed>  $values */
    private function change(string $id, array $values, int $version): Answer
    {
        return self::$client->call('PATCH', "/api/tickets/$id", ['values' => $values], ['If-Match' => '"'.$version.'"']);
    }

    /** @return array<string, mixed> */
    private function values(string $id): array
    {
        return self::$client->call('GET', "/api/tickets/$id")->json()['ticket']['values'];
    }
}
