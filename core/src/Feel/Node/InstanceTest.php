<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel\Node;

use Sorvel\Core\Feel\Node;
use Sorvel\Core\Feel\TypeName;

/** `x instance of type` (10.3.2.4) */
final class InstanceTest extends Node
{
    public function __construct(public readonly Node $value, public readonly TypeName $type, int $from, int $to)
    {
        parent::__construct($from, $to);
    }

    public function parts(): array
    {
        return [$this->value];
    }
}
