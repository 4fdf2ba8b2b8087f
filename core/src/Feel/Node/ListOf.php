<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel\Node;

use Sorvel\Core\Feel\Node;

/** A list literal (10.3.2.12). */
final class ListOf extends Node
{
    /** @param  list<Node>  $items */
    public function __construct(public readonly array $items, int $from, int $to)
    {
        parent::__construct($from, $to);
    }

    public function parts(): array
    {
        return $this->items;
    }
}
