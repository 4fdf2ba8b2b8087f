<?php

declare(strict_types=1);

namespace Sorvel\App\Outside;

/** Work for the worker: ask an outside list, and plan the next time. */
final class RefreshOutside
{
    public function __construct(public readonly string $type, public readonly int $plan)
    {
    }
}
