<?php

declare(strict_types=1);

namespace Sorvel\Core\Mirror;

enum Mode: string
{
    case Always = 'always';
    case FillEmpty = 'fill_empty';
    case OnChange = 'on_change';
}
