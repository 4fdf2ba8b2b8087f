<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel\Node;

use Sorvel\Core\Feel\Node;

/** `x between a and b`, both ends included (10.3.2.7). */
final class Between extends Node
{
    public function __construct(public readonly Node $value, public readonly Node $low, public readonly Node $high, int $from, int $to)
    {
        parent::__construct($from, $to);
    }

    public function parts(): array
    {
        return [$this->value, $this->low, $this->high];
    }
}
