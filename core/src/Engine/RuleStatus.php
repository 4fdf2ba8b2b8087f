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
        $order = [self::Looked, self::NoEffect, self::Acted, self::ProblemBefore, self::Problem];
        [$a, $b] = [array_search($this, $order, true), array_search($other, $order, true)];
        if (max($a, $b) === 3) {
            return $this->reachedRow() || $other->reachedRow() ? self::Problem : self::ProblemBefore;
        }

        return $a >= $b ? $this : $other;
    }
}
