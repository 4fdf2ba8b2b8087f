<?php

declare(strict_types=1);

namespace Sorvel\Tests\Api;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Sorvel\Tests\DemoDatabase;

/** Registers that are fed from outside; the catalogue of suppliers that ships with the product stands in for one. */
final class OutsideTest extends TestCase
{
    private const PATHS = ['supplier_number' => 'ref', 'name' => 'name', 'town' => 'address.town', 'lead_days' => 'terms.lead_days', 'approved' => 'terms.approved'];

    public static function setUpBeforeClass(): void
    {
        DemoDatabase::restore();
    }

    public function test_the_register_follows_the_source_and_so_does_what_mirrors_it(): void
    {
        [$greta, $ines] = [Client::as('greta'), Client::as('ines')];
        $suppliers = $this->until(fn (): array => $ines->call('GET', '/api/registers/supplier')->json()['records'], fn (array $r): bool => count($r) === 8);
        $rope = array_values(array_filter($suppliers, fn (array $r): bool => $r['values']['name'] === 'Brackwater Rope'))[0];
        self::assertSame([9, 'Saltmere', true, 'BR-1001'], [$rope['values']['lead_days'], $rope['values']['town'], $rope['values']['approved'], $rope['values']['supplier_number']]);
        $request = $ines->call('POST', '/api/tickets', ['type' => 'request', 'values' => ['title' => 'Mooring lines', 'need' => 'supplies', 'supplier' => $rope['id']]])->json()['ticket'];
        self::assertSame(9, $request['values']['lead_days']);

        // later the source says otherwise, and leaves one out
        self::assertSame(200, $greta->call('PUT', '/api/outside/supplier', $this->body('{stand-in}/suppliers?later=1'))->status);
        $this->until(fn (): array => $ines->call('GET', '/api/registers/supplier?q=Hollin+Paints')->json()['records'], fn (array $r): bool => $r[0]['values']['lead_days'] === 6);
        $list = $this->list($ines);
        self::assertSame(['', 7, 1, true], [$list['problem'], $list['listed'], $list['unlisted'], $list['has_credentials']], 'credentials stay when none are sent');
        self::assertArrayNotHasKey('credentials', $list);
        $again = $ines->call('POST', '/api/outside/supplier/refresh', [])->json();
        self::assertNull($again['import'], 'the same answer again changes nothing');
    }

    /** @return iterable<string, array{string, string}> */
    public static function misbehaviour(): iterable
    {
        yield 'failing' => ['as=failing', 'status 503'];
        yield 'a web page' => ['as=html', 'a web page (HTML)'];
        yield 'broken JSON' => ['as=broken', 'not readable JSON'];
        yield 'another shape' => ['as=elsewhere', 'no list at "$.data.suppliers[*]"'];
        yield 'slow' => ['as=slow', 'did not answer in time'];
    }

    #[DataProvider('misbehaviour')]
    public function test_a_bad_answer_leaves_the_last_good_data_in_place(string $how, string $why): void
    {
        [$greta, $ines] = [Client::as('greta'), Client::as('ines')];
        $values = fn (): array => array_column($ines->call('GET', '/api/registers/supplier')->json()['records'], 'values', 'id');
        $this->until($values, fn (array $r): bool => count($r) === 8);
        $before = $values();
        $greta->call('PUT', '/api/outside/supplier', $this->body('{stand-in}/suppliers?'.$how));
        $list = $ines->call('POST', '/api/outside/supplier/refresh', [])->json()['list'];
        self::assertStringContainsString($why, $list['problem']);
        self::assertSame($before, $values());
    }

    public function test_a_source_is_tried_before_it_is_saved(): void
    {
        $greta = Client::as('greta');
        $tried = $greta->call('POST', '/api/outside/supplier/try', $this->body('{stand-in}/suppliers'))->json();
        self::assertSame([null, 8, 'Brackwater Rope'], [$tried['problem'], $tried['total'], $tried['rows'][0]['name']]);
        self::assertStringContainsString('about the credentials', $greta->call('POST', '/api/outside/supplier/try', ['credentials' => 'Bearer wrong'] + $this->body('{stand-in}/suppliers'))->json()['problem']);
        self::assertStringContainsString('lies on this network', $greta->call('POST', '/api/outside/supplier/try', $this->body('http://127.0.0.1:9/x'))->json()['problem']);
        self::assertStringContainsString('could not be reached', $greta->call('POST', '/api/outside/supplier/try', ['inside' => true] + $this->body('http://127.0.0.1:9/x'))->json()['problem']);
        $wrong = $greta->call('POST', '/api/outside/vessel/try', ['address' => 'ftp://x', 'rows' => '$..items', 'paths' => ['name' => 'a b', 'open_faults' => 'x', 'colour' => 'y'], 'key' => 'berths', 'every' => 0]);
        self::assertSame(['/address', '/every', '/rows', '/paths/name', '/paths/open_faults', '/paths/colour', '/key'], array_column($wrong->json()['errors'], 'pointer'));
        self::assertSame(403, Client::as('ines')->call('PUT', '/api/outside/supplier', $this->body('{stand-in}/suppliers'))->status, 'only administrators');
    }

    /** @return array<string, mixed> */
    private function body(string $address): array
    {
        return ['address' => $address, 'rows' => '$.data.suppliers[*]', 'paths' => self::PATHS, 'key' => 'supplier_number', 'every' => 60];
    }

    /** @return array<string, mixed> */
    private function list(Client $client): array
    {
        return array_column($client->call('GET', '/api/outside')->json()['lists'], null, 'type')['supplier'];
    }

    /**
     * @param  callable(): array<mixed>  $read
     * @param  callable(array<mixed>): bool  $holds
     * @return array<mixed>
     */
    private function until(callable $read, callable $holds): array
    {
        for ($i = 0; $i < 300; $i++) {
            $now = $read();
            if ($holds($now)) {
                return $now;
            }
            usleep(100_000);
        }
        self::fail('Waited in vain: '.json_encode($now));
    }
}
