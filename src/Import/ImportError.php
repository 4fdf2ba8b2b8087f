<?php

declare(strict_types=1);

namespace Sorvel\App\Import;

/** The file cannot be read: what is wrong, and how to mend it. */
final class ImportError extends \RuntimeException
{
    public function __construct(string $message, public readonly string $mend)
    {
        parent::__construct($message);
    }
}
