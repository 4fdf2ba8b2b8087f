<?php

declare(strict_types=1);

namespace Sorvel\Core\Replay;

enum Verdict: string
{
    case Agrees = 'agrees';
    case Differs = 'differs';
    /** It cannot be replayed: it names something that is not there. */
    case Broken = 'broken';
}
