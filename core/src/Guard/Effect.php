<?php

declare(strict_types=1);

namespace Sorvel\Core\Guard;

enum Effect: string
{
    case ReadOnly = 'read_only';
    case Required = 'required';
    case Hidden = 'hidden';
    case Choices = 'choices';
}
