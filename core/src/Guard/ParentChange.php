<?php

declare(strict_types=1);

namespace Sorvel\Core\Guard;

/** What becomes of a value that limited choices no longer hold, when something else has changed. */
enum ParentChange: string
{
    case Clear = 'clear';
    case Keep = 'keep';
    case Refuse = 'refuse';
}
