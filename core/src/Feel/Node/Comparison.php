<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel\Node;

use Sorvel\Core\Feel\Node;

/** Equality and order (10.3.2.13, table 42). */
final class Comparison extends Node
{
    public function __construct(public readonly string $operator, public readonly Node $left, public readonly Node $right, int $from, int $to)
    {
        parent::__construct($from, $to);
    }

    public function parts(): array
    {
        return [$this->left, $this->right];
    }
}
