<?php

declare(strict_types=1);

namespace Sorvel\Tests\Api;

use PHPUnit\Framework\TestCase;
use Sorvel\Tests\DemoDatabase;

/** Several people on one desk: notes, watching, what is new, what is related, what is deleted. */
final class TogetherTest extends TestCase
{
    public static function setUpBeforeClass(): void
    {
        DemoDatabase::restore();
    }

    public function test_notes_are_kept_as_written_and_held_to_their_bounds(): void
    {
        $rafi = Client::as('rafi');
        $id = self::fault($rafi)['id'];
        $note = $rafi->call('POST', "/api/tickets/$id/notes", ['for' => 'staff', 'text' => "  <script>x</script>\nTwo lines  "])->json();
        self::assertSame("<script>x</script>\nTwo lines", $note['text']);
        foreach ([['for' => 'staff', 'text' => '  '], ['for' => 'nobody', 'text' => 'x'], ['for' => 'staff', 'text' => str_repeat('x', 20_001)], ['text' => 'x'], ['for' => 'staff', 'text' => 5]] as $wrong) {
            self::assertSame(422, $rafi->call('POST', "/api/tickets/$id/notes", $wrong)->status);
        }
        self::assertSame(404, $rafi->call('POST', '/api/tickets/F-99999/notes', ['for' => 'staff', 'text' => 'x'])->status);
    }

    public function test_watchers_are_told_what_others_did(): void
    {
        [$rafi, $ines] = [Client::as('rafi'), Client::as('ines')];
        $fault = self::fault($rafi);
        $id = $fault['id'];
        self::assertSame(['ines'], $ines->call('PUT', "/api/tickets/$id/watchers/ines", [])->json()['watchers']);
        self::assertSame(422, $ines->call('PUT', "/api/tickets/$id/watchers/nobody", [])->status);
        $start = $ines->call('GET', '/api/changes')->json();
        self::assertSame([[], []], [$start['records'], $start['news']]);
        $version = $rafi->call('GET', "/api/tickets/$id")->json()['ticket']['version'];
        $rafi->call('PATCH', "/api/tickets/$id", ['values' => ['impact' => 'sailing']], ['If-Match' => '"'.$version.'"']);
        $rafi->call('POST', "/api/tickets/$id/notes", ['for' => 'staff', 'text' => 'Look.']);
        $ines->call('POST', "/api/tickets/$id/notes", ['for' => 'staff', 'text' => 'My own is no news.']);
        $later = $ines->call('GET', '/api/changes?since='.$start['since'])->json();
        self::assertContains($id, $later['records']);
        self::assertSame([[$id, 1, 1]], array_map(fn (array $n): array => [$n['id'], $n['changes'], $n['notes']], $later['news']));
        self::assertSame([], $rafi->call('GET', '/api/changes')->json()['news']);
        $ines->call('GET', "/api/tickets/$id");
        self::assertSame([], $ines->call('GET', '/api/changes?since='.$later['since'])->json()['news'], 'seen');
        self::assertSame([], $ines->call('DELETE', "/api/tickets/$id/watchers/ines")->json()['watchers']);
        self::assertSame(422, $ines->call('GET', '/api/changes?since=yesterday')->status);
    }

    public function test_related_records_are_found_both_ways(): void
    {
        $rafi = Client::as('rafi');
        $first = self::fault($rafi);
        $second = self::fault($rafi);
        $related = $rafi->call('GET', '/api/tickets/'.$first['id'])->json()['related'];
        $same = array_values(array_filter($related, fn (array $g): bool => $g['how'] === 'Same vessel, open'))[0];
        self::assertContains($second['id'], array_column($same['records'], 'id'));
        self::assertNotContains($first['id'], array_column($same['records'], 'id'));
        self::assertGreaterThanOrEqual(count($same['records']), $same['total']);
    }

    public function test_what_others_refer_to_cannot_be_deleted(): void
    {
        $ines = Client::as('ines');
        $fault = self::fault($ines);
        $vessel = fn (): array => $ines->call('GET', '/api/registers/vessel?q=V-07')->json()['records'][0];
        $delete = fn (string $path, int $version): Answer => $ines->call('DELETE', $path, null, ['If-Match' => '"'.$version.'"']);
        $before = $vessel()['values']['open_faults'];
        $refused = $delete('/api/registers/vessel/V-07', $vessel()['version']);
        self::assertSame(409, $refused->status);
        self::assertMatchesRegularExpression('~Pied Dipper cannot be deleted: .*refer.* to it by "Vessel"~', $refused->json()['errors'][0]['detail']);
        self::assertSame(412, $delete('/api/tickets/'.$fault['id'], $fault['version'] + 7)->status);
        self::assertSame(403, Client::as('rafi')->call('DELETE', '/api/tickets/'.$fault['id'], null, ['If-Match' => '"1"'])->status);
        self::assertSame(204, $delete('/api/tickets/'.$fault['id'], $fault['version'])->status);
        self::assertSame($before - 1, $vessel()['values']['open_faults'], 'its vessel counts one less in the same save');
        self::assertSame(404, $ines->call('GET', '/api/tickets/'.$fault['id'])->status);

        $quay = $ines->call('POST', '/api/registers/quay', ['values' => ['name' => 'Gone quay']])->json()['record'];
        self::assertSame(204, $delete('/api/registers/quay/'.$quay['id'], $quay['version'])->status);
    }

    public function test_a_tree_has_no_circles(): void
    {
        $ines = Client::as('ines');
        $area = $ines->call('GET', '/api/registers/area?q=A-1')->json()['records'][0];
        $answer = $ines->call('PATCH', '/api/registers/area/A-1', ['values' => ['within' => 'A-3']], ['If-Match' => '"'.$area['version'].'"']);
        self::assertSame(422, $answer->status);
        self::assertStringContainsString('a tree has no circles', $answer->json()['errors'][0]['detail']);
    }

    /** @return array<string, mixed> */
    private static function fault(Client $client): array
    {
        return $client->call('POST', '/api/tickets', ['type' => 'fault', 'values' => ['title' => 'Bell rope frayed', 'impact' => 'nothing', 'vessel' => 'V-07']])->json()['ticket'];
    }
}
