<?php

declare(strict_types=1);

namespace Sorvel\App\Impact;

/** Work for the worker: the demo desk's last twelve months. */
final class MakePastEvents
{
    public function __construct(public readonly int $count)
    {
    }
}
