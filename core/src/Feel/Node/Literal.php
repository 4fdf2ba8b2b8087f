<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel\Node;

use Sorvel\Core\Feel\Node;

/** A number (int or BigDecimal), text, boolean or null (10.3.2.3). */
final class Literal extends Node
{
    public function __construct(public readonly mixed $value, int $from, int $to)
    {
        parent::__construct($from, $to);
    }

    public function parts(): array
    {
        return [];
    }
}
