<?php

declare(strict_types=1);

namespace Sorvel\Core\Finding;

/** How much a finding weighs. */
enum Weight: string
{
    /** An edition is not published while it is open, unless somebody says why. */
    case Blocking = 'blocking';
    /** Probably not what is meant. */
    case Attention = 'attention';
    /** Good to know. */
    case Note = 'note';
}
