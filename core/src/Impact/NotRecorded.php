<?php

declare(strict_types=1);

namespace Sorvel\Core\Impact;

use Sorvel\Core\Model\StoreFailure;

/** Something is asked for that was not read at the time, so what would have come out is not known. */
final class NotRecorded extends StoreFailure
{
    public function __construct(string $what)
    {
        parent::__construct(new \RuntimeException($what));
    }
}
