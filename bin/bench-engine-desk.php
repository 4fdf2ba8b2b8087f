<?php

declare(strict_types=1);

// bin/sorvel bench engine, the part on a running desk of its own: sets of events, one save with very many follow-ups,
// and twenty clients at once.

use Symfony\Component\HttpClient\HttpClient;

require __DIR__.'/bench-client.php';

$figures = (array) json_decode((string) shell_exec('php -d pcov.enabled=0 -d opcache.enable_cli=1 -d memory_limit=1G '.escapeshellarg(__DIR__.'/console.php').' sorvel:bench-desk engine'), true);
$number = fn (string $key): float => is_numeric($figures[$key] ?? null) ? (float) $figures[$key] : NAN;
$queries = is_array($figures['queries'] ?? null) ? $figures['queries'] : [];
echo "\nsets of events, on a desk of its own\n\n";
line('one fault created alone, core time, median', sprintf('%.2f ms', $number('single')), '', true);
line(sprintf('one of %d created in one import, core time, median', $number('rows')), sprintf('%.2f ms', $number('set')), '<= twice', $number('set') <= 2 * $number('single'));
line('queries for a hundred events, import of 1,000', sprintf('%.0f', $queries['1000'] ?? NAN), '', true);
line('queries for a hundred events, import of 10,000', sprintf('%.0f', $queries['10000'] ?? NAN), 'the same', abs(($queries['10000'] ?? NAN) / ($queries['1000'] ?? NAN) - 1) < 0.1);
line(sprintf('a vessel laid up, %d open faults closed in one save', $number('closed')), sprintf('%.1f s', $number('laid_up')), '< 10 s', $number('laid_up') < 10 && $number('closed') === 5000.0);
line('memory of that, peak', sprintf('%.0f MB', $number('memory')), '< 256 MB', $number('memory') < 256);

// twenty clients that save at once, each one save after the other
$http = HttpClient::create([], 20);
$bench = Bench::signedIn('rafi');
$headers = $bench->headers();
$send = fn (int $i) => $http->request('POST', getenv('SORVEL_URL').'/api/tickets', ['headers' => [...$headers, 'Content-Type' => 'application/json'], 'body' => json_encode(['type' => 'fault', 'values' => ['title' => 'At once '.$i, 'vessel' => 'V-0'.(1 + $i % 7), 'impact' => 'comfort', 'hours_down' => $i % 40]]), 'user_data' => hrtime(true)]);
$times = [];
[$open, $sent, $failed] = [[], 0, 0];
$begun = hrtime(true);
while ($sent < 20) {
    $response = $send($sent++);
    $open[spl_object_id($response)] = $response;
}
while ($open !== []) {
    foreach ($http->stream($open, 1) as $response => $chunk) {
        if (! $chunk->isTimeout() && $chunk->isLast()) {
            $times[] = (hrtime(true) - $response->getInfo('user_data')) / 1e6;
            $failed += $response->getStatusCode() === 201 ? 0 : 1;
            unset($open[spl_object_id($response)]);
            if ($sent < 600) {
                $next = $send($sent++);
                $open[spl_object_id($next)] = $next;
                break;
            }
        }
    }
}
$seconds = (hrtime(true) - $begun) / 1e9;
line('20 clients saving at once: saves a second', sprintf('%.0f', count($times) / $seconds), '', $failed === 0);
line(sprintf('20 clients saving at once: p95, %d of %d failed', $failed, count($times)), sprintf('%.0f ms', percentile($times, 0.95)), '', $failed === 0);
