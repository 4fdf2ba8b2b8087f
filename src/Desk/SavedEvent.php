<?php

declare(strict_types=1);

namespace Sorvel\App\Desk;

use Sorvel\App\Run\Run;

final class SavedEvent
{
    /** @param  list<Run>  $others  of records that followed */
    public function __construct(public readonly StoredRecord $stored, public readonly Run $run, public readonly array $others)
    {
    }
}
