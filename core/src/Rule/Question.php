<?php

declare(strict_types=1);

namespace Sorvel\Core\Rule;

use Sorvel\Core\Model\Field;

/** What a person is asked when they start a rule by hand. */
final class Question
{
    /** @param  Field  $field  its key, what is asked as its label, its type and options */
    public function __construct(public readonly Field $field)
    {
    }
}
