<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel\Node;

use Sorvel\Core\Feel\Node;

/** A context literal (10.3.2.5); later entries see earlier ones. */
final class ContextOf extends Node
{
    /** @param  list<array{string, Node}>  $entries */
    public function __construct(public readonly array $entries, int $from, int $to)
    {
        parent::__construct($from, $to);
    }

    public function parts(): array
    {
        return array_column($this->entries, 1);
    }
}
