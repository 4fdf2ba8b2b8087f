<?php

declare(strict_types=1);

namespace Sorvel\Core\Replay;

enum StepKind: string
{
    case Create = 'create';
    case Change = 'change';
    case Clock = 'clock';
}
