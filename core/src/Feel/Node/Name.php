<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel\Node;

use Sorvel\Core\Feel\Node;

/** A name looked up in the scope (10.3.2.6); `?` is the value under a unary test. */
final class Name extends Node
{
    public function __construct(public readonly string $name, int $from, int $to)
    {
        parent::__construct($from, $to);
    }

    public function parts(): array
    {
        return [];
    }
}
