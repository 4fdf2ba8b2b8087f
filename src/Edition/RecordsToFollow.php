<?php

declare(strict_types=1);

namespace Sorvel\App\Edition;

/** Work for the worker: what follows from other fields is defined anew, so records from before take the values that now hold. */
final class RecordsToFollow
{
    /** @param  list<string>  $types  whose derived fields, mirrors or tallies the edition changes */
    public function __construct(public readonly int $edition, public readonly array $types)
    {
    }
}
