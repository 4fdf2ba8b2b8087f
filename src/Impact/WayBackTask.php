<?php

declare(strict_types=1);

namespace Sorvel\App\Impact;

use Sorvel\App\Work\LongWork;
use Sorvel\App\Work\Task;

/** Past events through what the desk would run on after going back to an edition; shown before it is done. */
final class WayBackTask implements Task
{
    public const KIND = 'way_back';

    public function __construct(private readonly ImpactTask $impact)
    {
    }

    public function kind(): string
    {
        return self::KIND;
    }

    public function takes(): array
    {
        return ['edition', 'days'];
    }

    public function chunks(LongWork $work): int
    {
        return $this->impact->chunks($work);
    }

    public function chunk(LongWork $work, int $chunk): array
    {
        return $this->impact->chunk($work, $chunk);
    }

    public function together(LongWork $work, array $chunks): array
    {
        return $this->impact->together($work, $chunks);
    }
}
