<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel\Node;

use Sorvel\Core\Feel\Node;

/** `for x in list return e` (10.3.2.11). */
final class ForReturn extends Node
{
    /** @param  list<array{string, Node}>  $iterators */
    public function __construct(public readonly array $iterators, public readonly Node $return, int $from, int $to)
    {
        parent::__construct($from, $to);
    }

    public function parts(): array
    {
        return [...array_column($this->iterators, 1), $this->return];
    }
}
