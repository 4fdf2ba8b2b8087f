<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

enum EventKind: string
{
    case Created = 'created';
    case Changed = 'changed';
    case Deleted = 'deleted';
    /** A message about the record, or one that opens it. */
    case Received = 'received';
    /** A web call came back. */
    case Answered = 'answered';
    /** A time of a rule's schedule. */
    case At = 'at';
    case ByHand = 'by_hand';
}
