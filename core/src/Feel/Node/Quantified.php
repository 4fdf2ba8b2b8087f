<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel\Node;

use Sorvel\Core\Feel\Node;

/** `some` / `every … satisfies` (10.3.2.11). */
final class Quantified extends Node
{
    /** @param  list<array{string, Node}>  $iterators */
    public function __construct(public readonly string $kind, public readonly array $iterators, public readonly Node $satisfies, int $from, int $to)
    {
        parent::__construct($from, $to);
    }

    public function parts(): array
    {
        return [...array_column($this->iterators, 1), $this->satisfies];
    }
}
