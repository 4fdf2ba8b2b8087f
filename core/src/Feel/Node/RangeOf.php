<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel\Node;

use Sorvel\Core\Feel\Node;

/** A range of values, or an open one such as `(< 5)` (10.3.2.7). */
final class RangeOf extends Node
{
    public function __construct(public readonly bool $startIncluded, public readonly ?Node $start, public readonly ?Node $end, public readonly bool $endIncluded, int $from, int $to)
    {
        parent::__construct($from, $to);
    }

    public function parts(): array
    {
        return array_values(array_filter([$this->start, $this->end]));
    }
}
