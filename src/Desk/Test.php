<?php

declare(strict_types=1);

namespace Sorvel\App\Desk;

/** What a line of a filter asks of a field. */
enum Test: string
{
    case Any = 'any';
    case None = 'none';
    case Empty = 'empty';
    case Filled = 'filled';
    case Words = 'words';
    case Least = 'least';
    case Most = 'most';
    /** Not longer ago than a number of days. */
    case Within = 'within';

    public function needsValues(): bool
    {
        return $this !== self::Empty && $this !== self::Filled;
    }

    public function compares(): bool
    {
        return in_array($this, [self::Least, self::Most, self::Within], true);
    }
}
