<?php

declare(strict_types=1);

namespace Sorvel\Core\Model;

/** An option of a choice, or a state seen as one. */
final class Option
{
    public function __construct(public readonly string $key, public readonly string $label, public readonly bool $active = true)
    {
    }
}
