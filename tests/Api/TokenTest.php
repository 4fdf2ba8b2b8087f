<?php

declare(strict_types=1);

namespace Sorvel\Tests\Api;

use PHPUnit\Framework\TestCase;
use Sorvel\Tests\DemoDatabase;

/** Tokens for machines. */
final class TokenTest extends TestCase
{
    public static function setUpBeforeClass(): void
    {
        DemoDatabase::restore();
    }

    public function test_a_machine_proves_a_draft_with_a_token_and_no_session(): void
    {
        $ines = Client::as('ines');
        foreach ([['name' => ' '], ['name' => 'x', 'role' => 'publisher'], ['name' => str_repeat('x', 101)]] as $wrong) {
            self::assertSame(422, $ines->call('POST', '/api/tokens', $wrong)->status);
        }
        $made = $ines->call('POST', '/api/tokens', ['name' => 'The build server', 'role' => 'builder'])->json();
        self::assertArrayNotHasKey('secret', $ines->call('GET', '/api/tokens')->json()['tokens'][0]);
        $machine = new Client(['Authorization' => 'Bearer '.$made['secret']]);

        $replay = $machine->call('POST', '/api/replay', ['change' => null, 'trace' => null, 'only' => null]);
        self::assertSame([200, 2], [$replay->status, $replay->json()['totals']['differs']]);
        self::assertArrayNotHasKey('set-cookie', $replay->headers);
        self::assertNotSame([], $machine->call('GET', '/api/findings')->json()['findings']);
        self::assertSame(201, $machine->call('POST', '/api/work', ['kind' => 'propose', 'rule' => 'rank_fault'])->status);
        self::assertSame(403, $machine->call('POST', '/api/editions', ['note' => 'x'])->status, 'builders do not publish');
        self::assertSame(409, $machine->call('POST', '/api/tokens', ['name' => 'Another'])->status);
        self::assertNotNull($ines->call('GET', '/api/tokens')->json()['tokens'][0]['used_at']);

        self::assertSame(404, Client::as('greta')->call('DELETE', '/api/tokens/'.$made['number'])->status, 'it is not hers');
        self::assertSame(204, $ines->call('DELETE', '/api/tokens/'.$made['number'])->status);
        self::assertSame(401, $machine->call('GET', '/api/findings')->status);
        self::assertSame(401, (new Client(['Authorization' => 'Bearer made-up']))->call('GET', '/api/findings')->status);
    }

    public function test_a_token_of_a_lower_role_can_do_less_than_who_made_it(): void
    {
        $greta = Client::as('greta');
        $made = $greta->call('POST', '/api/tokens', ['name' => 'A screen on the wall', 'role' => 'agent'])->json();
        $machine = new Client(['Authorization' => 'Bearer '.$made['secret']]);
        self::assertSame(200, $machine->call('GET', '/api/tickets?type=fault')->status);
        self::assertSame(403, $machine->call('GET', '/api/draft')->status);
    }
}
