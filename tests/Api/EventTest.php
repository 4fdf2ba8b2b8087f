<?php

declare(strict_types=1);

namespace Sorvel\Tests\Api;

use Doctrine\DBAL\DriverManager;
use Doctrine\DBAL\Tools\DsnParser;
use PHPUnit\Framework\TestCase;
use Sorvel\Tests\DemoDatabase;
use Symfony\Component\HttpClient\HttpClient;

/** Starts beside creation and change, live: messages, hands, the clock, related records; and what the log says of them. */
final class EventTest extends TestCase
{
    public static function setUpBeforeClass(): void
    {
        DemoDatabase::restore();
    }

    public function test_a_message_opens_a_ticket_and_the_next_one_finds_it_by_its_number(): void
    {
        $rafi = Client::as('rafi');
        $opened = $rafi->call('POST', '/api/messages', ['from' => 'kit@tolvane.example', 'subject' => "Two coats\r\nBcc: x@y.example", 'html' => '<style>p{color:red}</style><p>Please send <b>two</b> coats.</p><script>alert(1)</script>', 'opens' => 'request'])->json();
        $id = $opened['ticket']['id'];
        self::assertTrue($opened['opened']);
        self::assertSame(['Two coats Bcc: x@y.example', 'kit', 'asked', ['by-mail']], [$opened['ticket']['values']['title'], $opened['ticket']['values']['requester'], $opened['ticket']['values']['state'], $opened['ticket']['values']['tags']]);
        self::assertStringStartsWith('Please send two coats.', $opened['ticket']['values']['details']);
        self::assertStringNotContainsString('alert', (string) json_encode($opened));
        self::assertSame('received', $opened['run']['kind']);
        $answer = $rafi->call('POST', '/api/messages', ['from' => 'stranger@else.example', 'subject' => "Re: [$id] Two coats", 'text' => 'Make that three.'])->json();
        self::assertSame([$id, false], [$answer['ticket']['id'], $answer['opened']]);
        $notes = $rafi->call('GET', "/api/tickets/$id")->json()['notes'];
        self::assertSame([['Make that three.', null, 'stranger@else.example'], ['Please send two coats.', 'kit', 'kit@tolvane.example']], array_map(fn (array $n): array => [$n['text'], $n['by'], $n['sender']], $notes));
        self::assertSame([$id, $id], array_column(array_slice($rafi->call('GET', '/api/messages')->json()['messages'], 0, 2), 'record'));
        // Kit sees both on their own ticket
        self::assertCount(2, Client::as('kit')->call('GET', "/api/ask/tickets/$id")->json()['notes']);
        foreach ([['from' => 'nobody', 'opens' => 'request'], ['from' => 'a@b.example'], ['from' => 'a@b.example', 'opens' => 'vessel'], ['from' => 'a@b.example', 'opens' => 'request', 'text' => str_repeat('x', 500_001)]] as $bad) {
            self::assertSame(422, $rafi->call('POST', '/api/messages', $bad)->status, (string) json_encode(array_keys($bad)));
        }
        self::assertSame(404, $rafi->call('POST', '/api/messages', ['from' => 'a@b.example', 'about' => 'F-99999'])->status);
        self::assertSame(403, Client::as('kit')->call('POST', '/api/messages', ['from' => 'a@b.example', 'opens' => 'request'])->status);
    }

    public function test_a_rule_is_started_by_hand_with_answers_on_one_ticket_and_on_several(): void
    {
        $rafi = Client::as('rafi');
        $fault = fn (string $state): string => $rafi->call('POST', '/api/tickets', ['type' => 'fault', 'values' => ['title' => 'Seat torn', 'state' => $state]])->json()['ticket']['id'];
        $start = fn (array $tickets, array $inputs, string $rule = 'put_off'): Answer => $rafi->call('POST', '/api/tickets/by-hand', ['rule' => $rule, 'tickets' => $tickets, 'inputs' => $inputs]);
        [$open, $closed] = [$fault('logged'), $fault('closed')];
        $missing = $start([$open], ['until' => '2027-06-01']);
        self::assertSame([422, 'Why? must be answered.'], [$missing->status, $missing->errors()['/inputs/why'] ?? $missing->body]);
        self::assertArrayHasKey('/inputs/until', $start([$open], ['until' => 'soon', 'why' => 'x'])->errors());
        self::assertArrayHasKey('/inputs/other', $start([$open], ['until' => '2027-06-01', 'why' => 'x', 'other' => 1])->errors());
        self::assertSame(422, $start([$open], [], 'rank_fault')->status, 'a rule that is not started by hand');
        self::assertSame(422, $start([], [])->status);
        self::assertSame(404, $start(['F-99999'], ['until' => '2027-06-01', 'why' => 'x'])->status);
        $fates = $start([$open, $closed, 'F-99999'], ['until' => '2027-06-01', 'why' => 'no fabric', 'told' => 'oda'])->json()['fates'];
        self::assertSame(['changed', 'same', 'gone'], array_column($fates, 'fate'));
        $ticket = $rafi->call('GET', "/api/tickets/$open")->json();
        self::assertSame(['2027-06-01', ['oda']], [$ticket['ticket']['values']['mend_by'], $ticket['ticket']['values']['informed']]);
        self::assertSame(['We mend it by 2027-06-01: no fabric', 'put_off', 'requester'], [$ticket['notes'][0]['text'], $ticket['notes'][0]['rule'], $ticket['notes'][0]['for']]);
        // the same event as a sample agrees with what happened
        $ines = Client::as('ines');
        $kept = $ines->call('POST', "/api/tickets/$open/sample", [])->json()['part'];
        self::assertSame(['put_off', ['until' => '2027-06-01', 'why' => 'no fabric', 'told' => 'oda']], [$kept['tree']['steps'][0]['by_hand'], $kept['tree']['steps'][0]['with']]);
        self::assertSame('agrees', $ines->call('POST', '/api/replay', ['only' => $kept['key']])->json()['samples'][0]['verdict']);
    }

    public function test_what_was_missed_by_the_clock_is_run_once(): void
    {
        $rafi = Client::as('rafi');
        $id = $rafi->call('POST', '/api/tickets', ['type' => 'fault', 'values' => ['title' => 'Raft release stuck', 'vessel' => 'V-01', 'safety' => true]])->json()['ticket']['id'];
        $database = DriverManager::getConnection((new DsnParser(['mysql' => 'pdo_mysql']))->parse((string) getenv('DATABASE_URL')));
        // the desk stood still for nine days
        $database->executeStatement("UPDATE clock SET at = DATE_SUB(at, INTERVAL 9 DAY) WHERE name = 'schedule'");
        $tags = fn (): array => $rafi->call('GET', "/api/tickets/$id")->json()['ticket']['values']['tags'] ?? [];
        for ($end = microtime(true) + 20; ! in_array('called-out', $tags(), true); usleep(200_000)) {
            self::assertLessThan($end, microtime(true), 'the morning never came');
        }
        usleep(1_500_000);
        $runs = $rafi->call('GET', "/api/runs?record=$id&kind=at")->json()['runs'];
        self::assertCount(1, $runs, 'nine mornings are called out once');
        self::assertSame([['morning_round'], null], [array_keys($runs[0]['rules']), $runs[0]['by']]);
        self::assertSame(0, (int) $database->fetchOne('SELECT COUNT(*) FROM scheduled_event'));
        $trace = $rafi->call('GET', '/api/runs/'.$runs[0]['run'])->json()['trace'];
        self::assertSame('0 7 * * 1-5', $trace['passes'][0]['rules'][0]['why']['cron']);
    }

    public function test_a_vessel_laid_up_reaches_its_faults_in_one_save(): void
    {
        [$ines, $rafi] = [Client::as('ines'), Client::as('rafi')];
        $fault = fn (string $impact): string => $rafi->call('POST', '/api/tickets', ['type' => 'fault', 'values' => ['title' => 'Scratch', 'vessel' => 'V-06', 'impact' => $impact]])->json()['ticket']['id'];
        [$minor, $cold] = [$fault('nothing'), $fault('comfort')];
        $vessel = fn (): array => $ines->call('GET', '/api/registers/vessel?q=V-06')->json()['records'][0];
        $before = $vessel();
        $saved = $ines->call('PATCH', '/api/registers/vessel/V-06', ['values' => ['in_service' => false]], ['If-Match' => '"'.$before['version'].'"']);
        self::assertSame(200, $saved->status, $saved->body);
        $of = fn (string $id): array => $rafi->call('GET', "/api/tickets/$id")->json();
        self::assertSame('closed', $of($minor)['ticket']['values']['state']);
        self::assertContains('with-refit', $of($minor)['ticket']['values']['tags']);
        self::assertContains('laid-up', $of($cold)['ticket']['values']['tags']);
        self::assertLessThan($before['values']['open_faults'], $vessel()['values']['open_faults']);
        self::assertSame('related', $rafi->call('GET', '/api/runs/'.$of($cold)['history'][0]['run'])->json()['trace']['passes'][0]['rules'][0]['why']['kind']);
    }

    public function test_twenty_at_once_lose_no_update_and_take_turns(): void
    {
        $clients = array_map(fn (int $i): Client => Client::as(['rafi', 'ines', 'hanne', 'greta'][$i % 4]), range(0, 3));
        $rafi = $clients[0];
        $vessel = fn (): int => $rafi->call('GET', '/api/registers/vessel?q=V-05')->json()['records'][0]['values']['open_faults'];
        $before = $vessel();
        $http = HttpClient::create();
        $send = function (array $values, string $type) use ($clients, $http): array {
            $responses = [];
            for ($i = 0; $i < 20; $i++) {
                $client = $clients[$i % 4];
                $responses[] = $http->request('POST', getenv('SORVEL_URL').'/api/tickets', ['headers' => ['Cookie' => $client->cookie(), 'X-Sorvel-Token' => $client->token, 'Content-Type' => 'application/json'], 'body' => json_encode(['type' => $type, 'values' => $values])]);
            }

            return array_map(fn ($r): array => [$r->getStatusCode(), json_decode($r->getContent(false), true)], $responses);
        };
        $answers = $send(['title' => 'All at once', 'vessel' => 'V-05', 'impact' => 'comfort'], 'fault');
        self::assertSame(array_fill(0, 20, 201), array_column($answers, 0), 'nobody is shown a deadlock');
        self::assertSame($before + 20, $vessel());
        self::assertCount(20, array_unique(array_map(fn (array $a): string => $a[1]['ticket']['id'], $answers)));
        $assigned = array_count_values(array_map(fn (array $a): string => $a[1]['ticket']['values']['assignee'], $send(['title' => 'Something'], 'request')));
        self::assertSame(['alva' => 5, 'greta' => 5, 'juno' => 5, 'mats' => 5], (function (array $a): array {
            ksort($a);

            return $a;
        })($assigned), 'twenty at once take their turns');
    }

    public function test_the_log_is_filtered_and_counts_what_rules_did(): void
    {
        $rafi = Client::as('rafi');
        $id = $rafi->call('POST', '/api/tickets', ['type' => 'fault', 'values' => ['title' => 'Ramp sticks', 'vessel' => 'V-01', 'impact' => 'sailing']])->json()['ticket']['id'];
        $count = fn (): array => array_column($rafi->call('GET', '/api/runs/by-rule?days=2')->json()['rules'], null, 'rule')['rank_fault'];
        $before = $count();
        $rafi->call('POST', '/api/tickets', ['type' => 'fault', 'values' => ['title' => 'Ramp sticks again', 'impact' => 'sailing']]);
        self::assertSame($before['acted'] + 1, $count()['acted']);
        $runs = $rafi->call('GET', "/api/runs?record=$id")->json();
        self::assertSame(['created', $id], [$runs['runs'][0]['kind'], $runs['runs'][0]['record']]);
        foreach ($rafi->call('GET', '/api/runs?rule=rank_fault&only=acted&type=fault')->json()['runs'] as $run) {
            self::assertSame('acted', $run['rules']['rank_fault']);
        }
        $first = $rafi->call('GET', '/api/runs')->json();
        self::assertCount(50, $first['runs']);
        $second = $rafi->call('GET', '/api/runs?before='.$first['next'])->json()['runs'];
        self::assertLessThan(end($first['runs'])['run'], $second[0]['run']);
        self::assertSame(422, $rafi->call('GET', '/api/runs?only=nothing')->status);
    }

    public function test_a_problem_is_told_to_the_rules_owner_once_until_they_look(): void
    {
        [$ines, $rafi] = [Client::as('ines'), Client::as('rafi')];
        $ines->call('POST', '/api/notices/seen', []);
        $problem = function () use ($rafi): string {
            // the deck light's maker has nobody to call first
            $fault = $rafi->call('POST', '/api/tickets', ['type' => 'fault', 'values' => ['title' => 'Light dark', 'part' => 'PT-07', 'state' => 'under_way']])->json()['ticket'];
            $saved = $rafi->call('PATCH', '/api/tickets/'.$fault['id'], ['values' => ['state' => 'waiting_for_parts']], ['If-Match' => '"'.$fault['version'].'"']);
            self::assertSame([200, 'problem_before'], [$saved->status, $saved->json()['run']['rules']['ask_the_maker']], 'the save is not lost');

            return $fault['id'];
        };
        [$first, $second] = [$problem(), $problem()];
        $notices = array_values(array_filter($ines->call('GET', '/api/changes')->json()['notices'], fn (array $n): bool => $n['rule'] === 'ask_the_maker'));
        self::assertSame([[true, 2, $second]], array_map(fn (array $n): array => [$n['problem'], $n['times'], $n['record']], $notices));
        $mails = array_filter($ines->call('GET', '/api/outgoing?kind=mail')->json()['outgoing'], fn (array $m): bool => in_array($m['record'], [$first, $second], true) && str_contains($m['data']['subject'], 'A problem in the rule'));
        self::assertCount(1, $mails, 'one mail, not one for each');
        self::assertSame([], array_filter($ines->call('POST', '/api/notices/seen', ['notice' => $notices[0]['notice']])->json()['notices'], fn (array $n): bool => $n['rule'] === 'ask_the_maker'));
        self::assertNotSame([], $rafi->call('GET', '/api/runs?only=problems&rule=ask_the_maker')->json()['runs']);
    }

    public function test_a_rule_is_held_against_the_live_records_without_touching_them(): void
    {
        $ines = Client::as('ines');
        $tree = $ines->part('rules', 'rank_fault')['tree'];
        $fit = fn (string $onlyIf): array => $ines->call('POST', '/api/rules/fit', ['key' => 'rank_fault', 'tree' => ['only_if' => $onlyIf] + $tree])->json();
        $listed = fn (string $lines): int => $ines->call('GET', '/api/tickets?type=fault&limit=1&lines='.rawurlencode($lines))->json()['total'];
        self::assertSame($listed('[{"field":"priority","is":"any","of":["urgent"]}]'), $fit('priority = "urgent"')['count']);
        $long = $fit('hours_down > 40 and state != "closed"');
        self::assertSame([true, false], [$long['whole'], $long['reads_all']]);
        self::assertLessThan($fit('contains(title, "a") or state != "closed"')['looked'], $long['looked'], 'fewer are looked at where an index leads to them');
        self::assertSame(['siblings'], $ines->call('POST', '/api/rules/fit', ['key' => 'rank_fault', 'tree' => ['look_ups' => [['name' => 'siblings', 'all' => 'fault', 'where' => 'vessel != record.vessel']]] + $tree])->json()['scans']);
        self::assertSame(422, $ines->call('POST', '/api/rules/fit', ['key' => 'rank_fault', 'tree' => ['only_if' => 'state ='] + $tree])->status);

        $before = $ines->call('GET', '/api/tickets/F-20')->json();
        $trial = $ines->call('POST', '/api/rules/try', ['key' => 'rank_fault', 'tree' => ['only_if' => 'true = (title != "x")', 'rows' => [['if' => ['-', '-'], 'then' => ['"soon"', '"tried"']]]] + $tree, 'record' => 'F-20'])->json();
        self::assertSame(['acted', 'created'], [$trial['status'], $trial['look']['why']['kind']]);
        self::assertContains('tried', array_merge(...array_map(fn (array $c): array => (array) $c['after'], $trial['trace']['changes'])));
        $changed = $ines->call('POST', '/api/rules/try', ['key' => 'rank_fault', 'record' => 'F-20', 'changed' => 'impact'])->json();
        self::assertSame(['changed', 'impact'], [$changed['look']['why']['kind'], $changed['look']['why']['field']]);
        self::assertEquals($before['ticket'], $ines->call('GET', '/api/tickets/F-20')->json()['ticket']);
        self::assertSame(422, $ines->call('POST', '/api/rules/try', ['key' => 'rank_fault', 'record' => 'R-1'])->status);
        self::assertSame(422, $ines->call('POST', '/api/rules/try', ['key' => 'rank_fault', 'record' => 'F-20', 'changed' => 'nothing'])->status);
    }
}
