<?php

declare(strict_types=1);

// The commands that need the application and its database. bin/sorvel sets the environment.

use Sorvel\App\Kernel;
use Symfony\Bundle\FrameworkBundle\Console\Application;

require dirname(__DIR__).'/vendor/autoload.php';

exit((new Application(new Kernel((string) (getenv('APP_ENV') ?: 'prod'), false)))->run());
