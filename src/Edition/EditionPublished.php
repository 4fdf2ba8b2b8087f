<?php

declare(strict_types=1);

namespace Sorvel\App\Edition;

/** Work for the worker: replay the samples of a new edition. */
final class EditionPublished
{
    public function __construct(public readonly int $number)
    {
    }
}
