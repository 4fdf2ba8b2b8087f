<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel;

/**
 * One node of a formula's tree. Plain, immutable data: the parser makes it, the printer prints it, the evaluator
 * evaluates it, walkers walk it. Offsets are bytes in the source.
 */
abstract class Node
{
    public function __construct(public readonly int $from, public readonly int $to)
    {
    }

    /** @return list<Node> the direct parts, in reading order */
    abstract public function parts(): array;
}
