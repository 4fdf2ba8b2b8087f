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

        // two samples of the demo differ on purpose
        $blocked = $publisher->call('POST', '/api/editions', ['note' => 'Boarding faults wait a little.']);
        self::assertSame(409, $blocked->status);
        self::assertSame([], array_diff(['bow_door_three_hours', 'proposal_on_the_line'], array_column($blocked->json()['samples'], 'key')));
        self::assertSame($blocked->json()['samples'], $publisher->call('GET', '/api/editions/gate')->json()['samples']);
        $edition = $publisher->call('POST', '/api/editions', ['note' => 'Boarding faults wait a little.', 'override' => 'Agreed on the telephone.']);
        self::assertSame('Agreed on the telephone.', $edition->json()['overridden']['reason'] ?? null);
        self::assertContains('bow_door_three_hours', array_column($edition->json()['overridden']['samples'] ?? [], 'key'));
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
        self::assertSame(109, array_sum($replay ?? []));
    }

    public function test_where_the_desk_asks_for_it_a_second_person_approves_exactly_what_is_published(): void
    {
        DemoDatabase::restore();
        $greta = Client::as('greta');
        $hanne = Client::as('hanne');
        self::assertSame(403, $hanne->call('PUT', '/api/editions/approval', ['asked' => true])->status);
        self::assertTrue($greta->call('PUT', '/api/editions/approval', ['asked' => true])->json()['needed']);
        $publish = fn (Client $client): int => $client->call('POST', '/api/editions', ['note' => 'From now on two look at it.', 'override' => 'Two samples differ on purpose.'])->status;
        self::assertSame(409, $publish($hanne), 'nobody has approved it');
        self::assertSame(['hanne'], $hanne->call('POST', '/api/editions/approval', [])->json()['by']);
        self::assertSame(409, $publish($hanne), 'one cannot approve for oneself');
        $greta->call('POST', '/api/editions/approval', []);
        $part = $hanne->part('rules', 'rank_fault');
        $hanne->save('rules', 'rank_fault', ['purpose' => 'Another purpose.'] + $part['tree'], $part['version']);
        self::assertSame(409, $publish($hanne), 'an edit needs it anew');
        $greta->call('POST', '/api/editions/approval', []);
        self::assertSame(201, $publish($hanne));
        $greta->call('PUT', '/api/editions/approval', ['asked' => false]);
        self::assertSame(409, $publish($greta), 'the edition in force still asks for it');
        $hanne->call('POST', '/api/editions/approval', []);
        self::assertSame(201, $publish($greta));
    }

    /** On what the test above has published. */
    public function test_back_to_an_earlier_edition_in_one_act(): void
    {
        DemoDatabase::restore();
        $publisher = Client::as('hanne');
        $create = fn (): string => $publisher->call('POST', '/api/tickets', ['type' => 'fault', 'values' => ['title' => 'Ramp', 'impact' => 'boarding']])->json()['ticket']['values']['priority'];
        $change = function (string $to) use ($publisher): void {
            $part = $publisher->part('rules', 'rank_fault');
            $tree = $part['tree'];
            $tree['rows'][2]['then'][0] = $to;
            $publisher->save('rules', 'rank_fault', $tree, $part['version']);
        };
        $change('"soon"');
        self::assertSame(201, $publisher->call('POST', '/api/editions', ['note' => 'Wait a little.', 'override' => 'Tried out.'])->status);
        self::assertSame('soon', $create());

        $back = fn (int $to, array $body): Answer => $publisher->call('POST', "/api/editions/$to/back", $body);
        self::assertSame(422, $back(1, ['reason' => ' '])->status);
        self::assertSame(409, $back(2, ['reason' => 'x'])->status, 'it is in force');
        self::assertSame(404, $back(9, ['reason' => 'x'])->status);
        self::assertSame(403, Client::as('ines')->call('POST', '/api/editions/1/back', ['reason' => 'x'])->status);
        $change('"routine"');
        $ask = fn (array $of): Answer => $publisher->call('POST', '/api/work', $of);
        self::assertSame([422, 422, 404], [$ask(['kind' => 'way_back'])->status, $ask(['kind' => 'impact', 'edition' => 1])->status, $ask(['kind' => 'way_back', 'edition' => 9])->status]);
        $work = $ask(['kind' => 'way_back', 'edition' => 1])->json();
        self::assertSame([1, true, null], [$work['edition'], $work['current'], $publisher->call('GET', '/api/work?kind=impact')->json()['work']], 'it is not taken for the impact of the draft');

        $refused = $back(1, ['reason' => 'Too slow.']);
        self::assertSame([409, ['rank_fault']], [$refused->status, array_column($refused->json()['changes'], 'key')], 'what is not published would go');
        $third = $back(1, ['reason' => 'Too slow.', 'discard' => true]);
        self::assertSame([201, 3, 1, 'Back to edition 1: Too slow.'], [$third->status, $third->json()['number'], $third->json()['back_to'], $third->json()['note']]);
        self::assertSame('urgent', $create());
        self::assertSame([], $publisher->call('GET', '/api/draft')->json()['changes']);
        self::assertSame($publisher->call('GET', '/api/editions/2')->json()['parts'][0]['before'], $publisher->call('GET', '/api/editions/3')->json()['parts'][0]['after']);
    }
}
