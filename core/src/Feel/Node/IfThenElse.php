<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel\Node;

use Sorvel\Core\Feel\Node;

/** `if c then a else b` (10.3.2.11); anything but true takes the else. */
final class IfThenElse extends Node
{
    public function __construct(public readonly Node $condition, public readonly Node $then, public readonly Node $else, int $from, int $to)
    {
        parent::__construct($from, $to);
    }

    public function parts(): array
    {
        return [$this->condition, $this->then, $this->else];
    }
}
