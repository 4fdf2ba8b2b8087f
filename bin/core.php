<?php

declare(strict_types=1);

// The commands that need the rules core alone: no database, no web server.

use Sorvel\Core\Feel\FeelCommand;
use Sorvel\Core\Feel\FuzzCommand;
use Sorvel\Core\Finding\CheckCommand;
use Sorvel\Core\Impact\ImpactCommand;
use Sorvel\Core\Replay\CoverCommand;
use Sorvel\Core\Replay\ReplayCommand;

require dirname(__DIR__).'/vendor/autoload.php';

$arguments = array_slice($argv, 1);
$command = array_shift($arguments);
exit(match ($command) {
    'replay' => (new ReplayCommand(STDOUT, STDERR))->run($arguments),
    'check' => (new CheckCommand(STDOUT, STDERR))->run($arguments),
    'cover' => (new CoverCommand(STDOUT, STDERR))->run($arguments),
    'impact' => (new ImpactCommand(STDOUT, STDERR))->run($arguments),
    'feel' => (new FeelCommand(STDOUT, STDERR))->run($arguments),
    'fuzz' => (new FuzzCommand(STDOUT, STDERR))->run($arguments),
    default => fwrite(STDERR, "Usage: bin/core.php replay|check|cover|impact|feel|fuzz …\n") * 0 + 2,
});
