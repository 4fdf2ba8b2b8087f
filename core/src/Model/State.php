<?php

declare(strict_types=1);

namespace Sorvel\Core\Model;

final class State
{
    public function __construct(public readonly string $key, public readonly string $label, public readonly bool $open)
    {
    }
}
