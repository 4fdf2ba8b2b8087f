<?php

declare(strict_types=1);

// bin/sorvel torture: clients save without pause while php-fpm, MariaDB and the clock are killed (SIGKILL) at random
// moments; afterwards everything that was acknowledged must be there, whole, and every message sent once. Exit 0 or 1.

use Symfony\Component\HttpClient\HttpClient;
use Symfony\Contracts\HttpClient\Exception\ExceptionInterface;

require dirname(__DIR__).'/vendor/autoload.php';

const CLIENTS = 4;

[$kills, $minutes] = [(int) ($argv[1] ?? 200), (float) ($argv[2] ?? 0)];
$state = (string) getenv('SORVEL_STATE');
$url = (string) getenv('SORVEL_URL');
$seed = (int) (getenv('SORVEL_SEED') ?: random_int(1, 999_999));
mt_srand($seed);
$log = fn (int $i): string => $state.'/run/torture-'.$i.'.log';
$stop = $state.'/run/torture-stop';
@unlink($stop);

function database(): PDO
{
    for ($i = 0; ; $i++) {
        try {
            return new PDO('mysql:unix_socket='.getenv('SORVEL_DB_SOCKET').';dbname=sorvel', 'sorvel', trim((string) file_get_contents(getenv('SORVEL_STATE').'/secret/database')), [PDO::ATTR_ERRMODE => PDO::ERRMODE_EXCEPTION]);
        } catch (PDOException $gone) {
            $i < 300 ?: throw $gone;
            usleep(100_000);
        }
    }
}

/** One client: one ticket of its own, saved again and again; what was tried and what was acknowledged is written down. */
function client(int $i, string $url, string $file, string $stop): void
{
    mt_srand(crc32($file));
    $cookie = $token = '';
    $http = HttpClient::create(['timeout' => 15]);
    $call = function (string $method, string $path, ?array $body = null, array $headers = []) use ($http, $url, &$cookie, &$token): ?array {
        try {
            $response = $http->request($method, $url.$path, ['headers' => [...($cookie === '' ? [] : ['Cookie' => $cookie]), ...($token === '' ? [] : ['X-Sorvel-Token' => $token]), ...$headers], ...($body === null ? [] : ['json' => $body])]);
            $status = $response->getStatusCode();
            $content = json_decode($response->getContent(false), true);
            foreach ($response->getHeaders(false)['set-cookie'] ?? [] as $set) {
                $cookie = explode(';', $set)[0];
            }
            $token = is_array($content) && is_string($content['token'] ?? null) ? $content['token'] : $token;

            return [$status, is_array($content) ? $content : []];
        } catch (ExceptionInterface) {
            return null;
        }
    };
    $signIn = function () use ($call, &$cookie, &$token): void {
        for (; ; usleep(200_000)) {
            $cookie = $token = '';
            if (($call('GET', '/api/session')[0] ?? 0) === 200 && ($call('POST', '/api/session', ['email' => 'rafi@tolvane.example', 'password' => 'ferry-demo'])[0] ?? 0) === 200) {
                return;
            }
        }
    };
    $write = fn (array $line): int|false => file_put_contents($file, json_encode($line)."\n", FILE_APPEND);
    $signIn();
    $id = null;
    while ($id === null) {
        $answer = $call('POST', '/api/tickets', ['type' => 'fault', 'values' => ['title' => "Tortured $i", 'vessel' => 'V-0'.(1 + $i % 2), 'part' => 'PT-01', 'state' => 'under_way', 'hours_down' => 0]]);
        $id = $answer !== null && $answer[0] === 201 ? $answer[1]['ticket']['id'] : null;
        $id ?? $signIn();
    }
    $write(['id' => $id]);
    [$version, $waits] = [null, false];
    for ($n = 1; ! file_exists($stop); $n++) {
        while ($version === null) {
            // what became of the last one is not known: look
            $now = $call('GET', "/api/tickets/$id");
            if ($now === null || $now[0] !== 200) {
                $now !== null && in_array($now[0], [401, 403], true) ? $signIn() : usleep(100_000);

                continue;
            }
            $version = $now[1]['ticket']['version'];
            $waits = $now[1]['ticket']['values']['state'] === 'waiting_for_parts';
        }
        $values = ['hours_down' => $n, 'impact' => ['nothing', 'comfort', 'boarding', 'sailing'][mt_rand(0, 3)], ...(mt_rand(0, 3) === 0 ? ['state' => $waits ? 'under_way' : 'waiting_for_parts'] : [])];
        $write(['try' => $n]);
        $answer = $call('PATCH', "/api/tickets/$id", ['values' => $values], ['If-Match' => '"'.$version.'"']);
        if ($answer !== null && $answer[0] === 200) {
            $write(['ack' => $n]);
            // the status may come through and the body be cut off
            $version = $answer[1]['ticket']['version'] ?? null;
            $waits = ($answer[1]['ticket']['values']['state'] ?? null) === 'waiting_for_parts';
        } else {
            $answer !== null && in_array($answer[0], [401, 403], true) && $signIn();
            $version = null;
        }
    }
}

/** @return array{list<string>, array<string, string>} how a process was started */
function startOf(int $pid): array
{
    $environment = [];
    foreach (array_filter(explode("\0", (string) file_get_contents("/proc/$pid/environ"))) as $line) {
        [$name, $value] = explode('=', $line, 2);
        $environment[$name] = $value;
    }

    return [array_values(array_filter(explode("\0", (string) file_get_contents("/proc/$pid/cmdline")), fn (string $a): bool => $a !== '')), $environment];
}

$names = ['mariadb', 'php-fpm', 'clock'];
$starts = [];
foreach ($names as $name) {
    $starts[$name] = startOf((int) file_get_contents("$state/run/$name.pid"));
}
// php-fpm writes over how it was started
$starts['php-fpm'][0] = ['/usr/sbin/php-fpm8.2', '-F', ...(posix_geteuid() === 0 ? ['-R'] : []), '-d', 'pcov.enabled=0', '-y', "$state/run/php-fpm.conf"];
$kill = function (string $name) use ($state, $starts): void {
    $pid = (int) file_get_contents("$state/run/$name.pid");
    posix_kill(-$pid, SIGKILL) || posix_kill($pid, SIGKILL);
    usleep(mt_rand(0, 200_000));
    [$command, $environment] = $starts[$name];
    $process = proc_open(['setsid', ...$command], [['file', '/dev/null', 'r'], ['file', "$state/log/$name.log", 'a'], ['file', "$state/log/$name.log", 'a']], $pipes, null, $environment);
    $GLOBALS['processes'][] = $process;
    is_resource($process) ?: throw new RuntimeException("$name could not be started again.");
    file_put_contents("$state/run/$name.pid", (string) proc_get_status($process)['pid']);
};

$database = database();
$versions = $database->query("SELECT id, version - (SELECT COUNT(*) FROM run u WHERE u.record = r.id) FROM record r WHERE type = 'vessel'")->fetchAll(PDO::FETCH_KEY_PAIR);
unset($database);
$children = [];
for ($i = 0; $i < CLIENTS; $i++) {
    @unlink($log($i));
    $pid = pcntl_fork();
    if ($pid === 0) {
        client($i, $url, $log($i), $stop);
        exit(0);
    }
    $children[] = $pid;
}
$end = $minutes > 0 ? microtime(true) + 60 * $minutes : INF;
$killed = array_fill_keys($names, 0);
// nothing is killed before everybody is at work
for ($i = 0; $i < 600 && array_filter(range(0, CLIENTS - 1), fn (int $c): bool => ! str_contains((string) @file_get_contents($log($c)), '"ack"')) !== []; $i++) {
    usleep(100_000);
}
$answers = function () use ($url): void {
    for ($i = 0; $i < 300; $i++) {
        try {
            if (HttpClient::create(['timeout' => 2])->request('GET', $url.'/api/session')->getStatusCode() === 200) {
                return;
            }
        } catch (ExceptionInterface) {
        }
        usleep(50_000);
    }
    throw new RuntimeException('The desk does not come back.');
};
for ($k = 0; ($minutes > 0 || $k < $kills) && microtime(true) < $end; $k++) {
    $name = $names[mt_rand(0, 5) === 0 ? 2 : mt_rand(0, 1)];
    $kill($name);
    $killed[$name]++;
    $answers();
    usleep(mt_rand(100_000, 1_200_000));
    stream_isatty(STDERR) && fprintf(STDERR, "\r  killed %d times  ", $k + 1);
}
touch($stop);
foreach ($children as $pid) {
    pcntl_waitpid($pid, $status);
}
$database = database();
$all = fn (string $sql, array $of = []): array => (function () use ($database, $sql, $of): array {
    $statement = $database->prepare($sql);
    $statement->execute($of);

    return $statement->fetchAll(PDO::FETCH_ASSOC);
})();
$one = fn (string $sql, array $of = []): int => (int) array_values($all($sql, $of)[0])[0];
// until everything has gone out
for ($i = 0; $i < 1200 && $one("SELECT COUNT(*) FROM outgoing WHERE stage IN ('waiting', 'sending')") > 0; $i++) {
    // what was claimed by a sender that was killed is taken up again at once
    $i % 20 === 0 && $database->exec("UPDATE outgoing SET due_at = UTC_TIMESTAMP() WHERE stage = 'sending' AND due_at > UTC_TIMESTAMP() + INTERVAL 20 SECOND");
    usleep(100_000);
}

$wrong = [];
$must = function (bool $holds, string $what) use (&$wrong): void {
    $holds || $wrong[] = $what;
};
[$acknowledged, $tried] = [0, 0];
for ($i = 0; $i < CLIENTS; $i++) {
    $lines = array_map(fn (string $l): array => (array) json_decode($l, true), array_filter(explode("\n", (string) file_get_contents($log($i)))));
    $id = $lines[0]['id'];
    $acks = array_values(array_filter(array_column($lines, 'ack')));
    $tries = array_values(array_filter(array_column($lines, 'try')));
    $acknowledged += count($acks);
    $tried += count($tries);
    $record = $all('SELECT * FROM record WHERE id = ?', [$id])[0] ?? ['field_values' => '{}', 'version' => 0, 'state' => ''];
    $values = (array) json_decode($record['field_values'], true);
    $last = $acks === [] ? 0 : max($acks);
    $hours = (int) ($values['hours_down'] ?? 0);
    $must($hours >= $last && ($hours === $last || in_array($hours, $tries, true)), "$id has hours_down $hours; the last acknowledged is $last");
    $must((int) $record['version'] === $one('SELECT COUNT(*) FROM run WHERE record = ?', [$id]), "$id: a save without its run, or a run without its save");
    $must($record['state'] === ($values['state'] ?? null), "$id: the state stands twice and differs");
    $priority = match (true) {
        $values['impact'] === 'sailing' && $hours > 4 => 'sailing_at_risk', in_array($values['impact'], ['sailing', 'boarding'], true) => 'urgent', $values['impact'] === 'comfort' => $hours >= 24 ? 'urgent' : 'soon', default => 'routine'
    };
    $must(($values['priority'] ?? '') === $priority, "$id: impact {$values['impact']} and $hours hours, and priority {$values['priority']}");
    $acted = fn (string $rule): int => $one("SELECT COUNT(*) FROM run_rule x JOIN run u ON u.id = x.run WHERE u.record = ? AND x.rule = ? AND x.status = 'acted'", [$id, $rule]);
    $must($acted('order_part') === $one("SELECT COUNT(*) FROM outgoing WHERE record = ? AND kind = 'call'", [$id]), "$id: a call without the rule that made it, or the other way round");
    $must($acted('ask_the_maker') === $one("SELECT COUNT(*) FROM outgoing WHERE record = ? AND rule = 'ask_the_maker'", [$id]), "$id: half of a rule was done: the message");
    $must($acted('ask_the_maker') === $one("SELECT COUNT(*) FROM note WHERE record = ? AND rule = 'ask_the_maker'", [$id]), "$id: half of a rule was done: the note");
    $must($one("SELECT COUNT(*) FROM run WHERE record = ? AND kind = 'answered'", [$id]) === $one("SELECT COUNT(*) FROM outgoing WHERE record = ? AND kind = 'call'", [$id]), "$id: a call that came back twice, or never");
}
foreach ($versions as $id => $ahead) {
    $must($one('SELECT version FROM record WHERE id = ?', [$id]) - $one('SELECT COUNT(*) FROM run WHERE record = ?', [$id]) === (int) $ahead, "$id: a tally without its run");
    $open = $one("SELECT COUNT(*) FROM record WHERE type = 'fault' AND state IN ('logged', 'under_way', 'waiting_for_parts') AND JSON_VALUE(field_values, '$.vessel') = ?", [$id]);
    $must($open === $one("SELECT JSON_VALUE(field_values, '$.open_faults') FROM record WHERE id = ?", [$id]), "$id: its open faults are counted wrongly");
}
$sent = $one("SELECT COUNT(*) FROM outgoing WHERE stage = 'sent'");
// who is called is killed as well: a call may find nobody at every try, and then it is given up, which is an answer too (see above)
$givenUp = $one("SELECT COUNT(*) FROM outgoing WHERE kind = 'call' AND stage = 'failed' AND tries >= 4 AND (status IS NULL OR status >= 500)");
$must($one("SELECT COUNT(*) FROM outgoing WHERE stage <> 'sent'") === $givenUp, 'something did not go out: '.json_encode($all("SELECT kind, stage, status, problem, COUNT(*) AS n FROM outgoing WHERE stage <> 'sent' GROUP BY kind, stage, status, problem")));
$must($one("SELECT COUNT(*) FROM outgoing o JOIN stand_in_post p ON p.token = o.token WHERE o.stage = 'sent'") === $sent, 'something is said to have been sent that nobody has received');
$received = $one('SELECT COUNT(*) FROM stand_in_post');
$must($received >= $sent && $received <= $sent + $givenUp, 'something was received that was never sent');
$twice = $one('SELECT COUNT(*) FROM stand_in_post WHERE times > 1');

printf("killed %d times (%s), seed %d\n", array_sum($killed), implode(', ', array_map(fn (string $n, int $k): string => "$n $k", array_keys($killed), $killed)), $seed);
printf("%d saves tried, %d acknowledged; %d messages and calls sent, %d of them came twice with one token and were kept once%s\n", $tried, $acknowledged, $sent, $twice, $givenUp === 0 ? '' : sprintf('; %d calls found nobody at four tries and were given up, with their answer', $givenUp));
foreach ($wrong as $what) {
    echo "WRONG: $what\n";
}
echo $wrong === [] ? "Everything acknowledged is there, nothing was done by half, nothing was sent twice or lost.\n" : "Something was lost.\n";
exit($wrong === [] && $acknowledged > 0 ? 0 : 1);
