<?php

declare(strict_types=1);

namespace Sorvel\Core\Table;

use Sorvel\Core\Model\Field;

final class Output
{
    /**
     * @param  list<mixed>  $values  allowed values, highest first; empty when any will do
     * @param  Field|null  $field  the field that its values belong to
     * @param  'number'|'text'|'yes_no'|null  $type  what its values are, when no field says so
     */
    public function __construct(
        public readonly string $key,
        public readonly string $label,
        public readonly array $values,
        public readonly ?Field $field = null,
        public readonly ?string $type = null,
    ) {
    }

    /** The place of a value in the order; unknown ones come last. */
    public function rank(mixed $value): int
    {
        foreach ($this->values as $rank => $known) {
            if (\Sorvel\Core\Feel\Values::equal($known, $value) === true) {
                return $rank;
            }
        }

        return PHP_INT_MAX;
    }
}
