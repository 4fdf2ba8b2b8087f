<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel;

/** A range of numbers or texts (10.3.2.7); a null end is open. */
final class Range
{
    public function __construct(
        public readonly bool $startIncluded,
        public readonly mixed $start,
        public readonly mixed $end,
        public readonly bool $endIncluded,
    ) {
    }

    /** Null when the value cannot be compared with an end. */
    public function holds(mixed $value): ?bool
    {
        $low = $this->start === null ? true : Values::ordered($this->startIncluded ? '>=' : '>', $value, $this->start);
        $high = $this->end === null ? true : Values::ordered($this->endIncluded ? '<=' : '<', $value, $this->end);

        return $low === null || $high === null ? null : $low && $high;
    }
}
