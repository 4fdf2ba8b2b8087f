<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel\Node;

use Sorvel\Core\Feel\Node;

/** `list[condition]` or `list[index]` (10.3.2.5). */
final class Filter extends Node
{
    public function __construct(public readonly Node $of, public readonly Node $by, int $from, int $to)
    {
        parent::__construct($from, $to);
    }

    public function parts(): array
    {
        return [$this->of, $this->by];
    }
}
