<?php

declare(strict_types=1);

namespace Sorvel\Core\Model;

/** What a requester sees of a field. */
enum Seen: string
{
    case Shown = 'shown';
    case ReadOnly = 'read_only';
    case Hidden = 'hidden';
}
