<?php

declare(strict_types=1);

namespace Sorvel\App\Line;

/** Work for the worker: a check that was asked for. */
final class WalkOverRecords
{
    public function __construct(public readonly int $check)
    {
    }
}
