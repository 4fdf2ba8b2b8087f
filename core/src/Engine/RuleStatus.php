<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

/** How far a rule that was due got. */
enum RuleStatus: string
{
    /** Looked, but no row fitted. */
    case Looked = 'looked';
    /** A row fitted, and there was nothing left to change. */
    case NoEffect = 'no_effect';
    case Acted = 'acted';
    /** Something went wrong before a row fitted. */
    case ProblemBefore = 'problem_before';
    /** A row fitted, and something in it went wrong. */
    case Problem = 'problem';

    public function reachedRow(): bool
    {
        return $this !== self::Looked && $this !== self::ProblemBefore;
    }

    /** The status over two looks of the same event. */
    public function and(self $other): self
    {
        if ($this === $other) {
            return $this;
        }
        [$a, $b] = [$this->rank(), $other->rank()];
        if (max($a, $b) === 3) {
            return $this->reachedRow() || $other->reachedRow() ? self::Problem : self::ProblemBefore;
        }

        return $a >= $b ? $this : $other;
    }

    private function rank(): int
    {
        return match ($this) {
            self::Looked => 0, self::NoEffect => 1, self::Acted => 2, self::ProblemBefore => 3, self::Problem => 4
        };
    }
}
