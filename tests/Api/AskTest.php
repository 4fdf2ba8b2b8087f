<?php

declare(strict_types=1);

namespace Sorvel\Tests\Api;

use PHPUnit\Framework\TestCase;
use Sorvel\Tests\DemoDatabase;

/** The requester's side of the desk. */
final class AskTest extends TestCase
{
    public static function setUpBeforeClass(): void
    {
        DemoDatabase::restore();
    }

    public function test_forms_ask_questions_and_hide_the_rest(): void
    {
        $answer = Client::as('kit')->call('GET', '/api/ask');
        $types = array_column($answer->json()['types'], null, 'key');
        self::assertSame(['fault', 'request', 'proposal', 'refit_task'], array_keys($types));
        self::assertSame('What does it stop?', array_column($types['fault']['fields'], 'question', 'key')['impact']);
        self::assertArrayNotHasKey('priority', array_column($types['fault']['fields'], 'question', 'key'), 'read-only fields are seen, not asked');
        self::assertArrayHasKey('priority', array_column($types['fault']['shown'], 'question', 'key'));
        foreach (['claim_number', 'Claim number', 'superintendent', 'score', 'headline', 'sponsor'] as $hidden) {
            self::assertFalse(str_contains($answer->body, '"'.$hidden.'"'), $hidden.' never reaches the browser');
        }
    }

    public function test_a_form_is_guided_and_sent(): void
    {
        $kit = Client::as('kit');
        $values = ['title' => 'Ram leaks again', 'impact' => 'boarding', 'vessel' => 'V-02', 'part_family' => 'PF-2'];
        $choices = $kit->call('POST', '/api/ask/choices', ['type' => 'fault', 'values' => $values, 'field' => 'part'])->json()['records'];
        self::assertSame(['PT-02'], array_column($choices, 'id'), 'only parts of the chosen family');
        self::assertSame(422, $kit->call('POST', '/api/ask/choices', ['type' => 'fault', 'values' => $values, 'field' => 'superintendent'])->status);
        $dry = $kit->call('POST', '/api/ask/dry-run', ['type' => 'fault', 'values' => $values + ['part' => 'PT-01']])->json();
        self::assertSame(['part'], array_column($dry['refused'], 'field'));
        self::assertNotContains('claim_number', array_column($dry['guards'], 'field'));

        self::assertSame(422, $kit->call('POST', '/api/ask', ['type' => 'fault', 'values' => $values + ['superintendent' => 'ines']])->status);
        self::assertSame(422, $kit->call('POST', '/api/ask', ['type' => 'fault', 'values' => $values + ['priority' => 'urgent']])->status);
        self::assertSame(422, $kit->call('POST', '/api/ask', ['type' => 'vessel', 'values' => ['name' => 'X']])->status);
        // what stands in the way is told without naming what they do not see
        $probe = $kit->call('POST', '/api/ask/dry-run', ['type' => 'fault', 'values' => ['title' => 'x', 'claim_number' => 'N-1', 'superintendent' => 'ines']]);
        self::assertSame(['', ''], array_column($probe->json()['refused'], 'field'));
        self::assertStringNotContainsString('Claim', $probe->body);
        $ticket = $kit->call('POST', '/api/ask', ['type' => 'fault', 'values' => $values + ['part' => 'PT-02']])->json()['ticket'];
        self::assertSame(['urgent', 'kit'], [$ticket['values']['priority'], Client::as('rafi')->call('GET', '/api/tickets/'.$ticket['id'])->json()['ticket']['values']['requester']]);
        self::assertArrayNotHasKey('superintendent', $ticket['values']);
        self::assertContains($ticket['id'], array_column($kit->call('GET', '/api/ask')->json()['tickets'], 'id'));
    }

    public function test_own_tickets_with_what_was_written_to_the_requester(): void
    {
        [$kit, $rafi] = [Client::as('kit'), Client::as('rafi')];
        $id = $kit->call('POST', '/api/ask', ['type' => 'fault', 'values' => ['title' => 'Kiosk dark', 'impact' => 'comfort']])->json()['ticket']['id'];
        $rafi->call('POST', "/api/tickets/$id/notes", ['for' => 'staff', 'text' => 'Third time this month.']);
        $rafi->call('POST', "/api/tickets/$id/notes", ['for' => 'requester', 'text' => 'On our way.']);
        self::assertSame(201, $kit->call('POST', "/api/ask/tickets/$id/notes", ['text' => 'Thank you <b>all</b>.'])->status);
        $page = $kit->call('GET', "/api/ask/tickets/$id");
        self::assertSame(['Thank you <b>all</b>.', 'On our way.'], array_column($page->json()['notes'], 'text'));
        self::assertStringNotContainsString('Third time', $page->body);
        self::assertCount(3, $rafi->call('GET', "/api/tickets/$id")->json()['notes']);

        // a move that is theirs, and those that are not
        $move = fn (string $state): Answer => $kit->call('PATCH', "/api/ask/tickets/$id", ['values' => ['state' => $state]], ['If-Match' => '"'.$kit->call('GET', "/api/ask/tickets/$id")->json()['ticket']['version'].'"']);
        self::assertSame(422, $move('closed')->status);
        foreach (['under_way', 'fixed'] as $state) {
            $version = $rafi->call('GET', "/api/tickets/$id")->json()['ticket']['version'];
            self::assertSame(200, $rafi->call('PATCH', "/api/tickets/$id", ['values' => ['state' => $state]], ['If-Match' => '"'.$version.'"'])->status);
        }
        self::assertSame([['key' => 'under_way', 'label' => 'Under way']], $kit->call('GET', "/api/ask/tickets/$id")->json()['moves']);
        self::assertSame('under_way', $move('under_way')->json()['ticket']['values']['state']);

        // those of others are not there
        self::assertSame(404, $rafi->call('GET', "/api/ask/tickets/$id")->status);
        self::assertSame(404, $rafi->call('POST', "/api/ask/tickets/$id/notes", ['text' => 'x'])->status);
        self::assertSame(403, $kit->call('GET', "/api/tickets/$id")->status);
    }
}
