<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel\Node;

use Sorvel\Core\Feel\Node;

/** The dash: every value fits (grammar rule 15). */
final class AnyValue extends Node
{
    public function __construct(int $from, int $to)
    {
        parent::__construct($from, $to);
    }

    public function parts(): array
    {
        return [];
    }
}
