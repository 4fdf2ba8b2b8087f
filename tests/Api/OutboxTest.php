<?php

declare(strict_types=1);

namespace Sorvel\Tests\Api;

use Doctrine\DBAL\Connection;
use Doctrine\DBAL\DriverManager;
use Doctrine\DBAL\Tools\DsnParser;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Sorvel\Tests\DemoDatabase;

/** Messages and calls of rules: kept with the save, sent once, and what comes back is an event. */
final class OutboxTest extends TestCase
{
    private const ORDERS = 'https://orders.northlight.example';

    public static function setUpBeforeClass(): void
    {
        DemoDatabase::restore();
    }

    public function test_a_call_goes_out_with_the_save_and_its_answer_starts_a_rule(): void
    {
        $rafi = Client::as('rafi');
        $id = $this->waiting($rafi, 'Teeth are worn');
        $call = $this->settled($rafi, $id);
        self::assertSame(['sent', 201, 1, 'order_part', ''], [$call['stage'], $call['status'], $call['tries'], $call['rule'], $call['problem']]);
        self::assertSame(['fault' => $id, 'part' => 'GBX-4', 'vessel' => 'Grey Plover', 'note' => 'Teeth are worn'], $call['data']['body']);
        $ticket = $this->until(fn (): array => $rafi->call('GET', "/api/tickets/$id")->json(), fn (array $t): bool => in_array('ordered', $t['ticket']['values']['tags'] ?? [], true));
        self::assertMatchesRegularExpression('~^Ordered as Y-[0-9a-f]{6}\.$~', $ticket['notes'][0]['text']);
        self::assertSame(['order_came_back', null], [$ticket['notes'][0]['rule'], $ticket['notes'][0]['by']]);
        self::assertSame('answered', $ticket['history'][0]['kind']);
        self::assertSame(1, $this->times($call['outgoing']), 'the receiver has it once');
        // the message to the maker has gone out, too
        $mail = $this->until(fn (): array => $rafi->call('GET', "/api/outgoing?kind=mail&record=$id")->json()['outgoing'], fn (array $o): bool => ($o[0]['stage'] ?? '') === 'sent');
        self::assertSame(['rune@northlight.example', 'Gearbox 4 for Grey Plover'], [$mail[0]['name'], $mail[0]['data']['subject']]);
        self::assertSame(1, $this->times($mail[0]['outgoing']));
    }

    /** @return iterable<string, array{string, int|null, int, string}> what the receiver is told to do; the status, tries and words that come of it */
    public static function misbehaviour(): iterable
    {
        yield 'a server error, tried again' => ['stand-in: busy', 503, 4, 'status 503'];
        yield 'a mistake of ours, not tried again' => ['stand-in: unknown', 404, 1, 'status 404'];
        yield 'a redirect, not followed' => ['stand-in: elsewhere', 302, 1, 'not followed'];
        yield 'a body without end' => ['stand-in: endless', 200, 1, 'larger than 1 MB'];
        yield 'no answer in time' => ['stand-in: slow 3', null, 4, 'did not answer in time'];
    }

    #[DataProvider('misbehaviour')]
    public function test_what_does_not_go_through_is_tried_again_where_that_may_help_and_then_told(string $note, ?int $status, int $tries, string $says): void
    {
        $rafi = Client::as('rafi');
        $ines = Client::as('ines');
        $ines->call('POST', '/api/notices/seen', []);
        $id = $this->waiting($rafi, $note);
        $call = $this->settled($rafi, $id);
        self::assertSame(['failed', $status, $tries], [$call['stage'], $call['status'], $call['tries']]);
        self::assertStringContainsString($says, $call['problem']);
        $ticket = $rafi->call('GET', "/api/tickets/$id")->json();
        self::assertContains('answered', array_column($ticket['history'], 'kind'), 'the rule was told all the same');
        $notices = array_values(array_filter($ines->call('GET', '/api/changes')->json()['notices'], fn (array $n): bool => $n['rule'] === 'order_part'));
        self::assertCount(1, $notices, 'the rule\'s owner hears of it');
        self::assertSame([true, $id], [$notices[0]['problem'], $notices[0]['record']]);
        $mails = array_column($ines->call('GET', "/api/outgoing?kind=mail&record=$id")->json()['outgoing'], 'name');
        self::assertContains('ines@tolvane.example', $mails);
    }

    public function test_only_allowed_addresses_are_called_and_this_network_only_where_that_is_said(): void
    {
        [$greta, $rafi] = [Client::as('greta'), Client::as('rafi')];
        $allowed = $greta->call('GET', '/api/addresses')->json()['addresses'];
        self::assertSame([self::ORDERS, true], [$allowed[0]['address'], $allowed[0]['stand_in']]);
        self::assertSame(200, $greta->call('DELETE', '/api/addresses/'.$allowed[0]['id'])->status);
        $call = $this->settled($rafi, $this->waiting($rafi, 'x'));
        self::assertSame(['failed', null, 1], [$call['stage'], $call['status'], $call['tries']]);
        self::assertStringContainsString('not allowed', $call['problem']);
        // somewhere on this machine, under the allowed name
        $here = 'http://127.0.0.1:'.parse_url((string) getenv('SORVEL_URL'), PHP_URL_PORT).'/api/stand-in/calls';
        $part = Client::as('ines')->part('rules', 'order_part');
        $tree = $part['tree'];
        $tree['changes'][0]['endpoint'] = $here.'/part_order';
        Client::as('ines')->save('rules', 'order_part', $tree, $part['version']);
        self::assertSame(201, Client::as('hanne')->call('POST', '/api/editions', ['note' => 'Orders go here.', 'override' => 'Two samples differ on purpose.'])->status);
        $greta->call('POST', '/api/addresses', ['address' => $here, 'inside' => false]);
        $call = $this->settled($rafi, $this->waiting($rafi, 'x'));
        self::assertStringContainsString('lies on this network', $call['problem']);
        $greta->call('POST', '/api/addresses', ['address' => $here, 'inside' => true, 'credentials' => 'Bearer secret']);
        self::assertSame('sent', $this->settled($rafi, $this->waiting($rafi, 'x'))['stage']);
        self::assertStringNotContainsString('secret', (string) json_encode($greta->call('GET', '/api/addresses')->json()));
        foreach (['ftp://x.example', 'https://me:pw@x.example', 'https://x.example/a/../b', 'x', 'https://x.example/?a=1', 'http://x.example\\@y.example'] as $bad) {
            self::assertSame(422, $greta->call('POST', '/api/addresses', ['address' => $bad])->status, $bad);
        }
        self::assertSame(403, $rafi->call('POST', '/api/addresses', ['address' => $here])->status);
        DemoDatabase::restore();
    }

    public function test_a_failed_call_is_answered_by_hand_once(): void
    {
        [$rafi, $ines] = [Client::as('rafi'), Client::as('ines')];
        $id = $this->waiting($rafi, 'stand-in: unknown');
        $call = $this->settled($rafi, $id);
        self::assertSame(422, $ines->call('POST', '/api/outgoing/'.$call['outgoing'].'/answer', ['status' => 9])->status);
        self::assertSame(403, $rafi->call('POST', '/api/outgoing/'.$call['outgoing'].'/answer', ['status' => 200])->status);
        $answered = $ines->call('POST', '/api/outgoing/'.$call['outgoing'].'/answer', ['status' => 200, 'body' => '{"number": "by phone"}'])->json();
        self::assertSame(['sent', 200], [$answered['stage'], $answered['status']]);
        $ticket = $rafi->call('GET', "/api/tickets/$id")->json();
        self::assertSame(['gbx-4', 'ordered'], $ticket['ticket']['values']['tags']);
        self::assertContains('Ordered as by phone.', array_column($ticket['notes'], 'text'));
        self::assertSame(409, $ines->call('POST', '/api/outgoing/'.$call['outgoing'].'/answer', ['status' => 200])->status);
    }

    public function test_a_sender_that_is_lost_leaves_nothing_behind_and_sends_nothing_twice(): void
    {
        $rafi = Client::as('rafi');
        $call = $this->settled($rafi, $this->waiting($rafi, 'x'));
        // as if the sender had been killed after the receiver took it and before that was written down
        $this->database()->executeStatement("UPDATE outgoing SET stage = 'sending', due_at = '2020-01-01', done_at = NULL WHERE id = ?", [$call['outgoing']]);
        $again = $this->until(fn (): array => $this->database()->fetchAssociative('SELECT stage, tries FROM outgoing WHERE id = ?', [$call['outgoing']]) ?: [], fn (array $o): bool => $o['stage'] === 'sent');
        self::assertSame(2, (int) $again['tries']);
        self::assertSame(2, $this->times($call['outgoing']), 'it came twice, with one token, and is kept once');
        self::assertSame(1, (int) $this->database()->fetchOne('SELECT COUNT(*) FROM stand_in_post s JOIN outgoing o ON o.token = s.token WHERE o.id = ?', [$call['outgoing']]));
    }

    /** A fault that has come to wait for a part: a call and a message go out. */
    private function waiting(Client $client, string $note): string
    {
        $fault = $client->call('POST', '/api/tickets', ['type' => 'fault', 'values' => ['title' => 'Gearbox worn', 'vessel' => 'V-02', 'part' => 'PT-01', 'details' => $note, 'state' => 'under_way']])->json()['ticket'];
        $changed = $client->call('PATCH', '/api/tickets/'.$fault['id'], ['values' => ['state' => 'waiting_for_parts']], ['If-Match' => '"'.$fault['version'].'"']);
        self::assertSame(200, $changed->status, $changed->body);

        return $fault['id'];
    }

    /** @return array<string, mixed> the call of a fault, once it has gone through or been given up */
    private function settled(Client $client, string $id): array
    {
        return $this->until(fn (): array => $client->call('GET', "/api/outgoing?kind=call&record=$id")->json()['outgoing'][0] ?? ['stage' => ''], fn (array $o): bool => in_array($o['stage'], ['sent', 'failed'], true));
    }

    private function times(int $outgoing): int
    {
        return (int) $this->database()->fetchOne('SELECT s.times FROM stand_in_post s JOIN outgoing o ON o.token = s.token WHERE o.id = ?', [$outgoing]);
    }

    private function database(): Connection
    {
        return DriverManager::getConnection((new DsnParser(['mysql' => 'pdo_mysql']))->parse((string) getenv('DATABASE_URL')));
    }

    /**
     * @param  callable(): array<array-key, mixed>  $ask
     * @param  callable(array<array-key, mixed>): bool  $holds
     * @return array<array-key, mixed>
     */
    private function until(callable $ask, callable $holds): array
    {
        for ($end = microtime(true) + 25; ! $holds($answer = $ask()); usleep(100_000)) {
            self::assertLessThan($end, microtime(true), 'Waited in vain: '.json_encode($answer));
        }

        return $answer;
    }
}
