<?php

declare(strict_types=1);

namespace Sorvel\Tests\Api;

use PHPUnit\Framework\TestCase;
use Sorvel\Tests\DemoDatabase;

/** A new key reaches everything that means the field, and live records with the edition. */
final class RenameTest extends TestCase
{
    public static function setUpBeforeClass(): void
    {
        DemoDatabase::restore();
    }

    public function test_new_keys_go_through_the_draft_and_to_the_records_when_published(): void
    {
        $client = Client::as('hanne');
        $ticket = $client->call('POST', '/api/tickets', ['type' => 'fault', 'values' => ['title' => 'Ramp', 'impact' => 'sailing', 'hours_down' => 5.5]])->json()['ticket'];
        $before = $client->call('GET', '/api/tickets?type=fault&filter[impact]=sailing')->json()['total'];
        $totals = fn (): array => $client->call('POST', '/api/replay', ['change' => null, 'trace' => null])->json()['totals'];
        $agreed = $totals();

        $rename = fn (?string $option, string $field, string $to): Answer => $client->call('POST', '/api/draft/rename', ['type' => 'fault', 'field' => $field, 'option' => $option, 'to' => $to]);
        self::assertSame(200, $rename(null, 'hours_down', 'hours_out')->status);
        self::assertSame(200, $rename('sailing', 'impact', 'next_sailing')->status);
        self::assertSame(200, $rename('logged', 'state', 'noted')->status);

        $rule = $client->part('rules', 'rank_fault')['tree'];
        self::assertSame(['created', ['changed' => ['impact', 'hours_out']]], $rule['starts']);
        self::assertSame('hours_out', $rule['checks'][1]['of']);
        self::assertSame('"next_sailing"', $rule['rows'][0]['if'][0]);
        self::assertSame('"sailing"', $rule['rows'][0]['then'][1], 'the tag of the same spelling is no option');
        self::assertSame('"noted"', $client->part('rules', 'reopen_fault')['tree']['rows'][0]['then'][0]);
        self::assertSame($agreed, $totals(), 'the samples follow');
        self::assertArrayHasKey('hours_down', $client->call('GET', '/api/tickets/'.$ticket['id'])->json()['ticket']['values'], 'a draft touches no record');

        self::assertSame(201, $client->call('POST', '/api/editions', ['note' => 'Keys that say what they mean.', 'override' => 'Two samples differ on purpose.'])->status);
        $page = $client->call('GET', '/api/tickets/'.$ticket['id'])->json();
        self::assertSame(5.5, $page['ticket']['values']['hours_out']);
        self::assertArrayNotHasKey('hours_down', $page['ticket']['values']);
        self::assertSame(['next_sailing', 'noted'], [$page['ticket']['values']['impact'], $page['ticket']['values']['state']]);
        $changed = array_column($page['history'][0]['changes'], 'after', 'field');
        self::assertSame([5.5, 'next_sailing'], [$changed['hours_out'], $changed['impact']], 'history speaks of today’s keys');
        self::assertSame($before, $client->call('GET', '/api/tickets?type=fault&filter[impact]=next_sailing')->json()['total']);
        self::assertSame(0, $client->call('GET', '/api/tickets?type=fault&filter[impact]=sailing')->json()['total']);
        self::assertGreaterThan(0, $client->call('GET', '/api/tickets?type=fault&filter[state]=noted')->json()['total']);
        self::assertSame(412, $client->call('PATCH', '/api/tickets/'.$ticket['id'], ['values' => ['hours_down' => 7]], ['If-Match' => '"'.$ticket['version'].'"'])->status, 'a page opened before is told');
        self::assertSame(200, $client->call('PATCH', '/api/tickets/'.$ticket['id'], ['values' => ['hours_out' => 7]], ['If-Match' => '"'.$page['ticket']['version'].'"'])->status);
    }

    public function test_a_key_that_cannot_be_changes_nothing(): void
    {
        $client = Client::as('ines');
        $before = $client->call('GET', '/api/draft')->json();
        foreach ([['title', null, 'vessel', '/to'], ['title', null, 'Title!', '/to'], ['nothing_there', null, 'x', ''], ['state', null, 'standing', '']] as [$field, $option, $to, $pointer]) {
            $answer = $client->call('POST', '/api/draft/rename', ['type' => 'fault', 'field' => $field, 'option' => $option, 'to' => $to]);
            self::assertSame([422, $pointer], [$answer->status, $answer->json()['errors'][0]['pointer']]);
        }
        self::assertSame($before, $client->call('GET', '/api/draft')->json());
    }

    public function test_every_mention_is_listed_with_its_place(): void
    {
        $mentions = Client::as('ines')->call('GET', '/api/draft/mentions')->json()['mentions'];
        $of = fn (string $field): array => array_values(array_unique(array_map(fn (array $m): string => $m['kind'].' '.$m['key'].($m['writes'] ? ' writes' : ''), array_filter($mentions, fn (array $m): bool => $field === $m['type'].'.'.$m['field'] && $m['option'] === null))));
        self::assertEqualsCanonicalizing(['rules carry_superintendent'], $of('vessel.superintendent'));
        self::assertContains('rules carry_superintendent writes', $of('fault.superintendent'));
        self::assertContains('tables benefit_points', $of('proposal.benefit'));
    }
}
