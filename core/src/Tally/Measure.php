<?php

declare(strict_types=1);

namespace Sorvel\Core\Tally;

enum Measure: string
{
    case Count = 'count';
    case Sum = 'sum';
    case Average = 'average';
    case Min = 'min';
    case Max = 'max';
    case Distinct = 'distinct';

    /** Whether the next value follows from the last one and what was added and taken away. */
    public function isRunning(): bool
    {
        return $this === self::Count || $this === self::Sum;
    }
}
