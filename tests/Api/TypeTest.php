<?php

declare(strict_types=1);

namespace Sorvel\Tests\Api;

use PHPUnit\Framework\TestCase;
use Sorvel\Tests\DemoDatabase;

/** Types and their fields, changed on a desk that has records. */
final class TypeTest extends TestCase
{
    public static function setUpBeforeClass(): void
    {
        DemoDatabase::restore();
    }

    public function test_fields_are_added_changed_and_retired_but_not_removed(): void
    {
        $ines = Client::as('ines');
        $part = $ines->part('types', 'quay');
        $tree = $part['tree'];
        $tree['fields'][] = ['key' => 'depth', 'label' => 'Depth', 'type' => 'number', 'min' => 0];
        $saved = $ines->save('types', 'quay', $tree, $part['version']);
        self::assertSame(200, $saved->status, $saved->body);
        self::assertStringContainsString('Quay', (string) json_encode($saved->json()['changes']));

        // what is not published yet may go again; what is may only be retired
        $version = $saved->json()['part']['version'];
        $without = [...$tree, 'fields' => array_values(array_filter($tree['fields'], fn (array $f): bool => $f['key'] !== 'keeper'))];
        $refused = $ines->save('types', 'quay', $without, $version);
        self::assertSame(422, $refused->status);
        $retired = $tree;
        $retired['fields'][1]['active'] = false;
        array_pop($retired['fields']);
        self::assertSame(200, $ines->save('types', 'quay', $retired, $version)->status);

        $area = $ines->part('types', 'area');
        $tree = $area['tree'];
        unset($tree['fields'][1]);
        $tree['fields'] = array_values(array_filter($tree['fields'], fn (array $f): bool => $f['key'] === 'name'));
        $refused = $ines->save('types', 'area', $tree, $area['version'])->json();
        self::assertStringContainsString('Retire it instead', implode(' ', array_column($refused['errors'], 'detail')));
        self::assertSame(422, $ines->save('types', 'area', ['kind' => 'ticket'] + $area['tree'], $area['version'])->status);
        self::assertSame(409, $ines->call('DELETE', '/api/draft/types/area', null, ['If-Match' => '"'.$area['version'].'"'])->status);
        self::assertSame(201, $ines->call('POST', '/api/draft/types', ['tree' => ['key' => 'berth', 'title' => 'Berth', 'kind' => 'register', 'name_field' => 'name', 'fields' => [['key' => 'name', 'label' => 'Name', 'type' => 'text']]]])->status);
    }

    public function test_a_change_of_type_is_told_first_and_then_carried_out(): void
    {
        [$ines, $hanne] = [Client::as('ines'), Client::as('hanne')];
        foreach (['12' => 'V-01', 'twelve' => 'V-02', '7.5' => 'V-03'] as $claim => $vessel) {
            $made[] = $ines->call('POST', '/api/tickets', ['type' => 'fault', 'values' => ['title' => 'Claimed', 'vessel' => $vessel, 'under_warranty' => true, 'impact' => 'nothing', 'findings' => '<p>Rust <b>within</b></p>']])->json()['ticket'];
            $ticket = $made[count($made) - 1];
            $ines->call('PATCH', '/api/tickets/'.$ticket['id'], ['values' => ['claim_number' => (string) $claim]], ['If-Match' => '"'.$ticket['version'].'"']);
        }
        $part = $ines->part('types', 'fault');
        $tree = $part['tree'];
        foreach ($tree['fields'] as $i => $field) {
            $tree['fields'][$i] = match ($field['key']) {
                'claim_number' => ['type' => 'number'] + $field, 'findings' => ['type' => 'long_text'] + $field, default => $field
            };
        }
        $told = array_column($ines->call('POST', '/api/draft/types/fault/conversion', ['tree' => $tree])->json()['fields'], null, 'field');
        self::assertSame([3, 1, 'twelve'], [$told['claim_number']['values'], $told['claim_number']['lost'], $told['claim_number']['examples'][0]['value']]);
        self::assertSame([3, 0], [$told['findings']['values'], $told['findings']['lost']]);
        $saved = $ines->save('types', 'fault', $tree, $part['version']);
        self::assertSame(200, $saved->status, $saved->body);
        self::assertSame(200, $ines->call('POST', '/api/draft/rename', ['type' => 'fault', 'field' => 'claim_number', 'option' => null, 'to' => 'claim_no'])->status);
        self::assertSame('12', $ines->call('GET', '/api/tickets/'.$made[0]['id'])->json()['ticket']['values']['claim_number'], 'nothing happens before it is published');

        self::assertSame(201, $hanne->call('POST', '/api/editions', ['note' => 'Claims are numbers.', 'override' => 'Two samples differ on purpose.'])->status);
        $values = array_map(fn (array $t): mixed => $ines->call('GET', '/api/tickets/'.$t['id'])->json()['ticket']['values']['claim_no'] ?? null, $made);
        self::assertSame([12, null, 7.5], $values);
        $page = $ines->call('GET', '/api/tickets/'.$made[1]['id'])->json();
        self::assertSame('Rust within', $page['ticket']['values']['findings']);
        self::assertContains(['claim_no', 'twelve', null], array_map(fn (array $c): array => [$c['field'], $c['before'], $c['after']], $page['history'][0]['changes']), 'what was lost stands in the history');
        self::assertSame([$made[2]['id']], array_column($ines->call('GET', '/api/tickets?type=fault&lines='.rawurlencode('[{"field":"claim_no","is":"least","of":[7]},{"field":"claim_no","is":"most","of":[8]}]'))->json()['tickets'], 'id'), 'and is found by number');
    }

    public function test_an_option_that_is_retired_stays_where_it_is_held(): void
    {
        [$ines, $hanne] = [Client::as('ines'), Client::as('hanne')];
        $ticket = $ines->call('POST', '/api/tickets', ['type' => 'request', 'values' => ['title' => 'Jackets', 'need' => 'uniform']])->json()['ticket'];
        $part = $ines->part('types', 'request');
        $tree = $part['tree'];
        foreach ($tree['fields'] as $i => $field) {
            foreach ($field['key'] === 'need' ? $field['options'] : [] as $j => $option) {
                if ($option['key'] === 'uniform') {
                    $tree['fields'][$i]['options'][$j]['active'] = false;
                }
            }
        }
        self::assertSame(200, $ines->save('types', 'request', $tree, $part['version'])->status);
        self::assertSame(201, $hanne->call('POST', '/api/editions', ['note' => 'No more uniforms.', 'override' => 'Two samples differ on purpose.'])->status);
        $change = fn (array $values): Answer => $ines->call('PATCH', '/api/tickets/'.$ticket['id'], ['values' => $values], ['If-Match' => '"'.$ines->call('GET', '/api/tickets/'.$ticket['id'])->json()['ticket']['version'].'"']);
        self::assertSame('uniform', $change(['people_affected' => 9])->json()['ticket']['values']['need'], 'what is held stays');
        self::assertSame(200, $change(['need' => 'uniform', 'people_affected' => 10])->status, 'also when it is sent along');
        self::assertSame(200, $change(['need' => 'supplies'])->status);
        self::assertStringContainsString('no longer in use', $change(['need' => 'uniform'])->json()['errors'][0]['detail']);
        self::assertSame(422, $ines->call('POST', '/api/tickets', ['type' => 'request', 'values' => ['title' => 'Jackets', 'need' => 'uniform']])->status);
    }
}
