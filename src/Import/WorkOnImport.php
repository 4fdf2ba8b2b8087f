<?php

declare(strict_types=1);

namespace Sorvel\App\Import;

/** Work for the worker: an import that is being tried, run or undone. */
final class WorkOnImport
{
    public function __construct(public readonly int $import)
    {
    }
}
