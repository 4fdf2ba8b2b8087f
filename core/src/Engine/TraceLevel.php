<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

/** How much of what happened is written down. */
enum TraceLevel
{
    /** Every condition, value, row and change: for one sample, or a live event. */
    case Full;
    /** Only which rules acted and which rows were hit: for many samples. */
    case Outcome;
}
