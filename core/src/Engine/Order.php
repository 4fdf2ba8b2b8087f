<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

use Sorvel\Core\Rule\FieldChange;

/** What a rule on another record wants of a field here. */
final class Order
{
    /** @param  mixed  $cell  what the cell came to on that record */
    public function __construct(public readonly string $rule, public readonly string $from, public readonly FieldChange $change, public readonly mixed $cell)
    {
    }
}
