<?php

declare(strict_types=1);

namespace Sorvel\Core\Model;

/** An option of a choice, or a state seen as one. */
final class Option
{
    /** @param  string|null  $parent  in a two-step choice: the first step's key that it belongs to */
    public function __construct(public readonly string $key, public readonly string $label, public readonly bool $active = true, public readonly ?string $parent = null)
    {
    }
}
