<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel\Node;

use Sorvel\Core\Feel\Node;
use Sorvel\Core\Feel\TypeName;

/** `function(a, b) body` (10.3.2.13.5); a parameter is a name with its type or null. */
final class FunctionOf extends Node
{
    /** @param  list<array{string, TypeName|null}>  $parameters */
    public function __construct(public readonly array $parameters, public readonly Node $body, int $from, int $to)
    {
        parent::__construct($from, $to);
    }

    public function parts(): array
    {
        return [$this->body];
    }
}
