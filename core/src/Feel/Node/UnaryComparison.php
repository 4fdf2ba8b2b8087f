<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel\Node;

use Sorvel\Core\Feel\Node;

/** A test such as `> 4` on the value in hand (10.3.2.7, grammar rule 7). */
final class UnaryComparison extends Node
{
    public function __construct(public readonly string $operator, public readonly Node $right, int $from, int $to)
    {
        parent::__construct($from, $to);
    }

    public function parts(): array
    {
        return [$this->right];
    }
}
