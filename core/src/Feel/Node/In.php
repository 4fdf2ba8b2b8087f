<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel\Node;

use Sorvel\Core\Feel\Node;

/** `x in tests` (10.3.2.9). */
final class In extends Node
{
    /** @param  list<Node>  $tests */
    public function __construct(public readonly Node $value, public readonly array $tests, int $from, int $to)
    {
        parent::__construct($from, $to);
    }

    public function parts(): array
    {
        return [$this->value, ...$this->tests];
    }
}
