<?php

declare(strict_types=1);

namespace Sorvel\Tests\Api;

use PHPUnit\Framework\TestCase;
use Sorvel\Tests\DemoDatabase;

final class RegisterTest extends TestCase
{
    public static function setUpBeforeClass(): void
    {
        DemoDatabase::restore();
    }

    public function test_registers_are_listed_found_and_sorted(): void
    {
        $agent = Client::as('rafi');
        $registers = array_column($agent->call('GET', '/api/registers')->json()['registers'], 'records', 'key');
        self::assertSame([7, 5], [$registers['vessel'], $registers['quay']]);
        $names = fn (string $query): array => array_map(fn (array $r): string => $r['values']['name'], $agent->call('GET', '/api/registers/vessel?'.$query)->json()['records']);
        self::assertSame('Alder Tern', $names('')[0]);
        self::assertSame('Stone Curlew', $names('sort=-berths')[0]);
        self::assertSame(['Reed Bunting'], $names('filter[in_service]=false'));
        self::assertSame(['Marsh Wren'], $names('q=wren'));
        $first = $agent->call('GET', '/api/registers/vessel?limit=4')->json();
        self::assertSame([4, 7], [count($first['records']), $first['total']]);
        self::assertCount(3, $agent->call('GET', '/api/registers/vessel?limit=4&cursor='.$first['next'])->json()['records']);
        self::assertSame(422, $agent->call('GET', '/api/registers/vessel?sort=colour')->status);
        self::assertSame(404, $agent->call('GET', '/api/registers/fault')->status);
        self::assertSame(404, $agent->call('GET', '/api/registers/nothing')->status);
    }

    public function test_a_change_is_held_to_the_fields_and_reaches_what_follows(): void
    {
        $builder = Client::as('ines');
        $fault = $builder->call('POST', '/api/tickets', ['type' => 'fault', 'values' => ['title' => 'Ramp light out', 'impact' => 'nothing', 'vessel' => 'V-03']])->json()['ticket'];
        self::assertSame(['Ramp light out, Marsh Wren', 12], [$fault['values']['headline'], $fault['values']['berths']]);
        $vessel = $builder->call('GET', '/api/registers/vessel?q=V-03')->json()['records'][0];
        $change = fn (array $values, int $version, ?Client $as = null): Answer => ($as ?? $builder)->call('PATCH', '/api/registers/vessel/V-03', ['values' => $values], ['If-Match' => '"'.$version.'"']);

        $wrong = $change(['superintendent' => 'nobody', 'berths' => -1, 'name' => null], $vessel['version']);
        self::assertSame(422, $wrong->status);
        self::assertEqualsCanonicalizing(['/values/superintendent', '/values/berths'], array_column($wrong->json()['errors'], 'pointer'));
        self::assertSame(403, $change(['name' => 'X'], $vessel['version'], Client::as('rafi'))->status);

        self::assertSame(200, $change(['name' => 'Marsh Wren II', 'berths' => 14], $vessel['version'])->status);
        self::assertSame(412, $change(['name' => 'Late'], $vessel['version'])->status);
        $page = $builder->call('GET', '/api/tickets/'.$fault['id'])->json();
        self::assertSame(['Ramp light out, Marsh Wren II', 14, $fault['version'] + 1], [$page['ticket']['values']['headline'], $page['ticket']['values']['berths'], $page['ticket']['version']]);
        self::assertEqualsCanonicalizing(['headline', 'berths'], array_column($page['history'][0]['changes'], 'field'));
        self::assertNull($page['history'][0]['by'], 'the desk did it');
    }

    public function test_a_new_record_gets_an_id_and_can_be_referred_to(): void
    {
        $builder = Client::as('ines');
        $made = $builder->call('POST', '/api/registers/quay', ['values' => ['name' => 'Lower slip', 'keeper' => 'mats']]);
        self::assertSame(201, $made->status);
        $id = $made->json()['record']['id'];
        self::assertSame(201, $builder->call('POST', '/api/tickets', ['type' => 'fault', 'values' => ['title' => 'Slip is slippery', 'quay' => $id]])->status);
        self::assertSame(422, $builder->call('POST', '/api/registers/vessel', ['values' => []])->status, 'a vessel needs a name');
    }

    public function test_records_from_before_an_edition_are_brought_into_line(): void
    {
        $publisher = Client::as('hanne');
        $mirror = ['key' => 'quay_note', 'on' => 'fault', 'field' => 'claim_number', 'from' => 'if vessel.name = "Sand Martin" then "SM" else null', 'mode' => 'always'];
        $guard = $publisher->part('guards', 'claim_under_warranty');
        self::assertSame(201, $publisher->call('POST', '/api/draft/mirrors', ['tree' => $mirror])->status);
        self::assertSame(200, $publisher->call('DELETE', '/api/draft/guards/claim_under_warranty', null, ['If-Match' => '"'.$guard['version'].'"'])->status);
        self::assertSame(201, $publisher->call('POST', '/api/editions', ['note' => 'Faults of the Sand Martin are claimed.', 'override' => 'Two samples differ on purpose.'])->status);
        $follow = function () use ($publisher): array {
            $tickets = $publisher->call('GET', '/api/tickets?type=fault&filter[vessel]=V-06&limit=200')->json()['tickets'];

            return array_values(array_unique(array_map(fn (array $t): mixed => $t['values']['claim_number'] ?? null, $tickets)));
        };
        for ($tries = 0; $tries < 150 && $follow() !== ['SM']; $tries++) {
            usleep(100_000);
        }
        self::assertSame(['SM'], $follow());
    }

    public function test_choices_that_remain(): void
    {
        $agent = Client::as('rafi');
        $ids = fn (array $body): array => array_column($agent->call('POST', '/api/tickets/choices', $body)->json()['records'], 'id');
        self::assertSame(['V-01', 'V-02', 'V-07', 'V-06', 'V-05'], $ids(['type' => 'fault', 'values' => ['vessel' => 'V-03'], 'field' => 'also_aboard']));
        self::assertContains('V-03', $ids(['type' => 'fault', 'values' => ['vessel' => 'V-01'], 'field' => 'also_aboard']));
        self::assertSame(['V-07'], $ids(['type' => 'fault', 'values' => ['vessel' => 'nonsense'], 'field' => 'also_aboard', 'q' => 'dipper']));
        self::assertSame(['eye', 'ear', 'alarm', 'round'], $agent->call('POST', '/api/tickets/choices', ['type' => 'fault', 'values' => [], 'field' => 'found_by'])->json()['options'], 'nothing limits these');
        self::assertSame(422, $agent->call('POST', '/api/tickets/choices', ['type' => 'fault', 'values' => [], 'field' => 'colour'])->status);
        self::assertSame(404, $agent->call('POST', '/api/tickets/choices', ['id' => 'F-99999', 'values' => [], 'field' => 'part'])->status);
    }
}
