<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel\Node;

use Sorvel\Core\Feel\Node;

/** Arithmetic minus in front of a value (10.3.2.8). */
final class Negation extends Node
{
    public function __construct(public readonly Node $of, int $from, int $to)
    {
        parent::__construct($from, $to);
    }

    public function parts(): array
    {
        return [$this->of];
    }
}
