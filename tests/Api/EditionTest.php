<?php

declare(strict_types=1);

namespace Sorvel\Tests\Api;

use PHPUnit\Framework\TestCase;
use Sorvel\Tests\DemoDatabase;

final class EditionTest extends TestCase
{
    public static function setUpBeforeClass(): void
    {
        DemoDatabase::restore();
    }

    public function test_the_desk_runs_on_what_is_published_and_on_nothing_else(): void
    {
        $publisher = Client::as('hanne');
        $create = fn (): string => $publisher->call('POST', '/api/tickets', ['type' => 'fault', 'values' => ['title' => 'Ramp', 'impact' => 'boarding']])->json()['ticket']['values']['priority'];
        self::assertSame(409, $publisher->call('POST', '/api/editions', ['note' => 'Nothing'])->status, 'the draft is the edition');
        self::assertSame('urgent', $create());

        $part = $publisher->part('rules', 'rank_fault');
        $tree = $part['tree'];
        $tree['rows'][2]['then'][0] = '"soon"';
        $publisher->save('rules', 'rank_fault', $tree, $part['version']);
        self::assertSame('urgent', $create(), 'a draft touches nobody');
        foreach (['', '   ', str_repeat('x', 3000)] as $note) {
            self::assertSame(422, $publisher->call('POST', '/api/editions', ['note' => $note])->status);
        }
        self::assertSame(403, Client::as('ines')->call('POST', '/api/editions', ['note' => 'Builders do not publish.'])->status);

        $edition = $publisher->call('POST', '/api/editions', ['note' => 'Boarding faults wait a little.']);
        self::assertSame([201, 2, 'hanne'], [$edition->status, $edition->json()['number'], $edition->json()['published_by']]);
        self::assertSame('soon', $create());
        self::assertSame([], $publisher->call('GET', '/api/draft')->json()['changes']);
        $changed = $publisher->call('GET', '/api/editions/2')->json();
        self::assertSame(['rank_fault'], array_column($changed['parts'], 'key'));
        self::assertSame(['"urgent"', '"soon"'], [$changed['parts'][0]['before']['rows'][2]['then'][0], $changed['parts'][0]['after']['rows'][2]['then'][0]]);
        self::assertSame(404, $publisher->call('GET', '/api/editions/9')->status);

        for ($tries = 0; $tries < 100; $tries++) {
            $replay = $publisher->call('GET', '/api/editions')->json()['editions'][0]['replay'];
            if ($replay !== null) {
                break;
            }
            usleep(100_000);
        }
        self::assertSame(['agrees', 'differs', 'broken'], array_keys($replay ?? []), 'the worker replays the samples of a new edition');
        self::assertSame(69, array_sum($replay ?? []));
    }
}
