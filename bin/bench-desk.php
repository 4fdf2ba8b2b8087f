<?php

declare(strict_types=1);

// bin/sorvel bench desk: measures a desk of 100,000 tickets and 10,000 parts that bin/sorvel has just filled. Figures are milliseconds unless they say otherwise.

require __DIR__.'/bench-client.php';

$bench = Bench::signedIn('hanne');
$console = fn (string $what): array => (array) json_decode((string) shell_exec('php -d pcov.enabled=0 -d opcache.enable_cli=1 -d memory_limit=512M '.escapeshellarg(__DIR__.'/console.php').' sorvel:bench-desk '.$what), true);

// list pages: two filters and a sort each, as people work
$lists = [
    ['type' => 'fault', 'sort' => '-hours_down', 'lines' => [['field' => 'priority', 'is' => 'any', 'of' => ['urgent']], ['field' => 'state', 'is' => 'any', 'of' => ['open']]]],
    ['type' => 'fault', 'sort' => '-changed_at', 'lines' => [['field' => 'vessel', 'is' => 'any', 'of' => ['V-03']], ['field' => 'assignee', 'is' => 'any', 'of' => ['oda']]]],
    ['type' => 'fault', 'sort' => '-priority', 'lines' => [['field' => 'area', 'is' => 'any', 'of' => ['A-8', 'A-9']], ['field' => 'hours_down', 'is' => 'least', 'of' => [60]]]],
    ['type' => 'proposal', 'sort' => '-score', 'lines' => [['field' => 'advice', 'is' => 'any', 'of' => ['now', 'plan']], ['field' => 'state', 'is' => 'none', 'of' => ['taken_up']]]],
    ['sort' => '-created_at', 'lines' => [['field' => 'assignee', 'is' => 'any', 'of' => ['greta']], ['field' => 'created_at', 'is' => 'within', 'of' => ['60']]]],
    ['sort' => 'number', 'lines' => [['field' => 'team', 'is' => 'any', 'of' => ['deck']], ['field' => 'state', 'is' => 'any', 'of' => ['open']]]],
    ['type' => 'fault', 'sort' => 'mend_by', 'lines' => [['field' => 'part', 'is' => 'any', 'of' => ['BP-77']], ['field' => 'safety', 'is' => 'empty']]],
    ['type' => 'request', 'sort' => '-changed_at', 'lines' => [['field' => 'title', 'is' => 'words', 'of' => ['kiosk']], ['field' => 'priority', 'is' => 'none', 'of' => ['routine']]]],
];
$pages = [];
$byList = [];
for ($i = 0; $i < 26; $i++) {
    foreach ($lists as $n => $list) {
        [$ms] = $bench->call('GET', '/api/tickets?'.http_build_query(['limit' => 100, ...$list, 'lines' => json_encode($list['lines'])]));
        if ($i > 0) {
            $pages[] = $byList[$n][] = $ms;
        }
    }
}
foreach ($byList as $n => $times) {
    printf("  %-70s p95 %6.1f ms\n", json_encode([...array_column($lists[$n]['lines'], 'field'), 'by '.$lists[$n]['sort']]), percentile($times, 0.95));
}

$saves = [];
for ($i = 0; $i < 60; $i++) {
    [$created, $answer] = $bench->call('POST', '/api/tickets', ['type' => 'fault', 'values' => ['title' => 'Measured fault', 'vessel' => 'V-BIG', 'part' => 'BP-'.(100 + $i), 'area' => 'A-8', 'impact' => 'comfort', 'hours_down' => 2]]);
    $ticket = (array) $answer['ticket'];
    [$changed] = $bench->call('PATCH', '/api/tickets/'.$ticket['id'], ['values' => ['impact' => 'sailing', 'hours_down' => 6, 'vessel' => 'V-0'.(1 + $i % 7)]], ['If-Match' => '"'.$ticket['version'].'"']);
    if ($i >= 10) {
        array_push($saves, $created, $changed);
    }
}
/** @var list<float> $lookUps */
$lookUps = $console('lookups');
/** @var array{big: list<float>, small: list<float>, right: bool} $tally */
$tally = $console('tally');

// an import of 10,000 rows through guards and rules
$csv = "title,vessel,area,impact,hours_down,part_family,part\n";
for ($i = 0; $i < 10_000; $i++) {
    $csv .= sprintf("\"Imported fault %d\",V-0%d,A-%d,%s,%d,PF-%d,%s\n", $i, 1 + $i % 7, 1 + $i % 13, ['nothing', 'comfort', 'boarding', 'sailing'][$i % 4], $i % 50, 1 + $i % 5, 'BP-'.max(1, $i % 10 === 0 ? $i + 1 : $i));
}
[, $import] = $bench->call('POST', '/api/imports?type=fault&name=bench.csv', $csv, ['Content-Type' => 'text/csv']);
$times = [];
foreach (['try' => 'tried', 'run' => 'done'] as $act => $until) {
    $begun = hrtime(true);
    $bench->call('POST', '/api/imports/'.$import['import'], $act === 'try' ? ['act' => 'try', 'matching' => (object) $import['matching'], 'key' => null] : ['act' => 'run']);
    do {
        usleep(200_000);
        [, $now] = $bench->call('GET', '/api/imports/'.$import['import']);
        $left = ((array) $now['counts'])[$act === 'try' ? 'left' : 'done'];
        stream_isatty(STDERR) && fprintf(STDERR, "\r  import, %s: %s    ", $act, is_scalar($left) ? (string) $left : '');
    } while ($now['stage'] !== $until && $now['stage'] !== 'stopped');
    $times[$act] = (hrtime(true) - $begun) / 1e9;
}
$peak = [1 => 0];
foreach (explode(' ', trim((string) getenv('SORVEL_WORKER'))) as $worker) {
    // whichever of them imported
    preg_match('~VmHWM:\s+(\d+) kB~', (string) @file_get_contents('/proc/'.$worker.'/status'), $found);
    $peak[1] = max($peak[1], (int) ($found[1] ?? 0));
}
$counts = (array) $now['counts'];

printf("\n%s tickets, 10,000 parts; %d rows imported, %d refused by guards; PHP %s\n\n", number_format(100_300), $counts['create'], $counts['refused'], PHP_VERSION);
line('a list page with two filters and a sort, p50', sprintf('%.0f ms', percentile($pages, 0.5)), '', true);
line('a list page with two filters and a sort, p95', sprintf('%.0f ms', percentile($pages, 0.95)), '< 150 ms', percentile($pages, 0.95) < 150);
line('a look-up by an indexed field, p95', sprintf('%.2f ms', percentile($lookUps, 0.95)), '< 10 ms', $lookUps !== [] && percentile($lookUps, 0.95) < 10);
line('a ticket saved with guards, mirrors and tallies, p95', sprintf('%.0f ms', percentile($saves, 0.95)), '< 80 ms', percentile($saves, 0.95) < 80);
line('an import of 10,000 rows, tried', sprintf('%.1f s', $times['try']), '', true);
line('an import of 10,000 rows, run', sprintf('%.1f s', $times['run']), '< 60 s', $times['run'] < 60 && $now['stage'] === 'done');
line('memory of the worker, peak', sprintf('%.0f MB', ($peak[1] ?? 0) / 1000), '< 256 MB', isset($peak[1]) && $peak[1] < 256_000);
$ratio = percentile($tally['big'], 0.5) / percentile($tally['small'], 0.5);
line('a change to a child, parent with 100 children, median', sprintf('%.2f ms', percentile($tally['small'], 0.5)), '', true);
line('a change to a child, parent with 10,000 children, median', sprintf('%.2f ms', percentile($tally['big'], 0.5)), '', true);
line('ratio of the two, and the tallies are '.($tally['right'] ? 'right' : 'WRONG'), sprintf('%.2f', $ratio), '< 1.25', $ratio < 1.25 && $tally['right']);
