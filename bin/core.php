<?php

declare(strict_types=1);

// The commands that need the rules core alone: no database, no web server.

use Sorvel\Core\Replay\ReplayCommand;

require dirname(__DIR__).'/vendor/autoload.php';

$arguments = array_slice($argv, 1);
$command = array_shift($arguments);
if ($command !== 'replay') {
    fwrite(STDERR, "Usage: bin/core.php replay …\n");
    exit(2);
}
exit((new ReplayCommand(STDOUT, STDERR))->run($arguments));
