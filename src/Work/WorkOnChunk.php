<?php

declare(strict_types=1);

namespace Sorvel\App\Work;

/** Work for a worker: one chunk. */
final class WorkOnChunk
{
    public function __construct(public readonly int $work, public readonly int $chunk)
    {
    }
}
