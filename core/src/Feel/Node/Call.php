<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel\Node;

use Sorvel\Core\Feel\Node;

/** A call with positional (list) or named (map) arguments (10.3.2.13). */
final class Call extends Node
{
    /** @param  array<int|string, Node>  $arguments */
    public function __construct(public readonly Node $function, public readonly array $arguments, int $from, int $to)
    {
        parent::__construct($from, $to);
    }

    public function parts(): array
    {
        return [$this->function, ...array_values($this->arguments)];
    }
}
