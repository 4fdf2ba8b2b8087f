<?php

declare(strict_types=1);

namespace Sorvel\Core\Table;

use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Feel\UnaryTests;

final class Row
{
    /**
     * @param  list<UnaryTests>  $if  one an input
     * @param  list<Formula|null>  $then  one an output; null stands for a dash
     */
    public function __construct(public readonly array $if, public readonly array $then)
    {
    }
}
