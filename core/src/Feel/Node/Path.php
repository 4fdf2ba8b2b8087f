<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel\Node;

use Sorvel\Core\Feel\Node;

/** `a.b` (10.3.2.14). */
final class Path extends Node
{
    public function __construct(public readonly Node $of, public readonly string $name, int $from, int $to)
    {
        parent::__construct($from, $to);
    }

    public function parts(): array
    {
        return [$this->of];
    }
}
