<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel\Node;

use Sorvel\Core\Feel\Node;

/** `not(tests)` as a unary test (grammar rule 15). */
final class UnaryNot extends Node
{
    /** @param  list<Node>  $tests */
    public function __construct(public readonly array $tests, int $from, int $to)
    {
        parent::__construct($from, $to);
    }

    public function parts(): array
    {
        return $this->tests;
    }
}
