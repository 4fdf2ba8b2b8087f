<?php

declare(strict_types=1);

namespace Sorvel\App\Import;

/** How far an import has come. */
enum Stage: string
{
    case Read = 'read';
    case Trying = 'trying';
    case Tried = 'tried';
    case Running = 'running';
    case Done = 'done';
    case Stopped = 'stopped';
    case Undoing = 'undoing';
    case Undone = 'undone';

    public function isAtWork(): bool
    {
        return in_array($this, [self::Trying, self::Running, self::Undoing], true);
    }
}
