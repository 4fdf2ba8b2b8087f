<?php

declare(strict_types=1);

namespace Sorvel\App\Outbox;

/** How far something that goes out has come. */
enum Stage: string
{
    case Waiting = 'waiting';
    /** Somebody is at it; when they are lost, it is taken up again after its time. */
    case Sending = 'sending';
    case Sent = 'sent';
    case Failed = 'failed';
}
