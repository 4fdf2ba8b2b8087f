<?php

declare(strict_types=1);

namespace Sorvel\Core\Table;

use Sorvel\Core\Model\Field;

final class Input
{
    /** @param  Field|null  $field the field that its values belong to */
    public function __construct(public readonly string $key, public readonly string $label, public readonly ?Field $field)
    {
    }
}
