<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

/** A look-up found nothing and its rule is not to go on. Never leaves the look. */
final class SkipRule extends \RuntimeException
{
    public function __construct(public readonly bool $isProblem, string $message)
    {
        parent::__construct($message);
    }
}
