<?php

declare(strict_types=1);

// bin/sorvel bench slice: measures the running demo desk. Figures are milliseconds unless they say otherwise.

use Sorvel\Core\Engine\CompiledRules;
use Sorvel\Core\Format\RulebookReader;
use Sorvel\Core\Format\SamplesReader;
use Sorvel\Core\Replay\Report;

require __DIR__.'/bench-client.php';

$root = dirname(__DIR__);

$bench = Bench::signedIn('ines');
[, $draft] = $bench->call('GET', '/api/draft');
$rule = array_column((array) $draft['rules'], 'tree', 'key')['rank_fault'];

// the margin after an edit: one cell of the grid changed, the sample in hand replayed and traced in full, all others behind it
$margin = [];
$behind = [];
$first = [];
[, $now] = $bench->call('POST', '/api/replay', ['change' => null]);
// those that the edit can touch, as the screen asks for them before all others
$loads = array_column(array_filter(array_column((array) $draft['samples'], 'tree'), fn (array $s): bool => $s['proves'] === 'load'), 'key');
$touched = array_values(array_diff(array_column(array_filter((array) $now['samples'], fn (array $s): bool => isset($s['rules']['rank_fault'])), 'key'), $loads));
for ($i = 0; $i < 120; $i++) {
    $rule['rows'][0]['if'][1] = '> '.(2 + $i / 7);
    [$ms] = $bench->call('POST', '/api/replay', ['change' => ['kind' => 'rules', 'key' => 'rank_fault', 'tree' => $rule], 'trace' => 'bow_door_three_hours', 'only' => 'bow_door_three_hours']);
    [$all] = $bench->call('POST', '/api/replay', ['change' => ['kind' => 'rules', 'key' => 'rank_fault', 'tree' => $rule]]);
    [$some] = $bench->call('POST', '/api/replay', ['change' => ['kind' => 'rules', 'key' => 'rank_fault', 'tree' => $rule], 'some' => $touched]);
    if ($i >= 20) {
        $first[] = $some;
        $margin[] = $ms;
        $behind[] = $all;
    }
}

// a ticket saved with rules: created, then changed, in turn
$saves = [];
for ($i = 0; $i < 60; $i++) {
    [$created, $answer] = $bench->call('POST', '/api/tickets', ['type' => 'fault', 'values' => ['title' => 'Measured fault', 'vessel' => 'V-01', 'part' => 'PT-01', 'impact' => 'comfort', 'hours_down' => 2]]);
    $ticket = (array) $answer['ticket'];
    [$changed] = $bench->call('PATCH', '/api/tickets/'.$ticket['id'], ['values' => ['impact' => 'sailing', 'hours_down' => 6]], ['If-Match' => '"'.$ticket['version'].'"']);
    if ($i >= 10) {
        array_push($saves, $created, $changed);
    }
}

// all demo samples in one process
$rulebook = RulebookReader::read((string) file_get_contents($root.'/demo/rulebook.yaml'), 'rulebook.yaml');
$samples = [];
foreach (glob($root.'/demo/samples/*.yaml') ?: [] as $file) {
    array_push($samples, ...SamplesReader::read((string) file_get_contents($file), basename($file)));
}
$replays = [];
for ($i = 0; $i < 12; $i++) {
    $start = hrtime(true);
    // as `bin/sorvel replay` does
    $i > 0 || CompiledRules::make($rulebook);
    Report::of($rulebook, $samples);
    $replays[] = (hrtime(true) - $start) / 1e6;
}
$once = array_shift($replays);

// what a browser must fetch before the first screen stands: the entry script and all that it names
$page = (string) file_get_contents($root.'/public/app/index.html');
preg_match_all('~(?:src|href)="(/assets/[^"]+\.js)"~', $page, $scripts);
$bytes = 0;
foreach (array_unique($scripts[1]) as $script) {
    $bytes += strlen((string) gzencode((string) file_get_contents($root.'/public/app'.$script), 6));
}

printf("%d samples, %d rules, %d tickets, %s\n\n", count($samples), count($rulebook->rules), is_int($draft['tickets']) ? $draft['tickets'] : 0, 'PHP '.PHP_VERSION);
line('margin after an edit, server, p50', sprintf('%.1f ms', percentile($margin, 0.5)), '', true);
line('margin after an edit, server, p95', sprintf('%.1f ms', percentile($margin, 0.95)), '< 120 ms', percentile($margin, 0.95) < 120);
line(sprintf('then of the %d samples that the edit can touch, server, p95', count($touched)), sprintf('%.1f ms', percentile($first, 0.95)), '< 300 ms', percentile($first, 0.95) < 300);
line('and of every sample, behind it, server, p95', sprintf('%.1f ms', percentile($behind, 0.95)), '', true);
line('a ticket saved with rules, server, p50', sprintf('%.1f ms', percentile($saves, 0.5)), '', true);
line('a ticket saved with rules, server, p95', sprintf('%.1f ms', percentile($saves, 0.95)), '< 80 ms', percentile($saves, 0.95) < 80);
line('all demo samples replayed in one process, first time', sprintf('%.1f ms', $once), '< 150 ms', $once < 150);
line('all demo samples replayed in one process, median of the next', sprintf('%.1f ms', percentile($replays, 0.5)), '< 150 ms', percentile($replays, 0.5) < 150);
line('script of the first screen, compressed', sprintf('%.0f kB', $bytes / 1000), '< 300 kB', $bytes < 300_000);
printf("memory of this process, peak: %.0f MB\n", memory_get_peak_usage(true) / 1e6);
