<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

enum EventKind: string
{
    case Created = 'created';
    case Changed = 'changed';
}
