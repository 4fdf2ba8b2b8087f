<?php

declare(strict_types=1);

namespace Sorvel\Core\Rule;

/** When a `set` replaces what is there. */
enum When: string
{
    case Always = 'always';
    case Empty = 'empty';
    case Higher = 'higher';
    case Lower = 'lower';
}
