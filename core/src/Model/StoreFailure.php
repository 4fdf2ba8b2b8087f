<?php

declare(strict_types=1);

namespace Sorvel\Core\Model;

/** The store itself failed: whatever runs on it must end, and nothing of it may be kept. */
class StoreFailure extends \RuntimeException
{
    public function __construct(\Throwable $why)
    {
        parent::__construct($why->getMessage(), 0, $why);
    }
}
