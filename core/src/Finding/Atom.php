<?php

declare(strict_types=1);

namespace Sorvel\Core\Finding;

/** A value that stands for all values which a column's tests cannot tell apart. */
final class Atom
{
    /** @param  string  $words  after the column's name: is Boarding, is 4, is above 24 */
    public function __construct(public readonly mixed $value, public readonly string $words)
    {
    }

    public function isEmpty(): bool
    {
        return $this->value === null;
    }
}
