<?php

declare(strict_types=1);

namespace Sorvel\Core\Table;

final class Result
{
    /** @param  list<int>  $rows the rows hit, from 0 */
    public function __construct(public readonly array $rows, public readonly mixed $value)
    {
    }
}
