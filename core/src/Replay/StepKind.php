<?php

declare(strict_types=1);

namespace Sorvel\Core\Replay;

enum StepKind: string
{
    case Create = 'create';
    case Change = 'change';
    case Delete = 'delete';
    case Receive = 'receive';
    case ByHand = 'by_hand';
    case Answer = 'answer';
    case Clock = 'clock';
}
