<?php

declare(strict_types=1);

namespace Sorvel\Core\Rule;

use Sorvel\Core\Feel\Formula;

/** A named value, found at most once and only when something reads it. */
final class LookUp
{
    /**
     * @param  'null'|'skip_rule'|'problem'|'use'  $none  what happens when nothing is found
     * @param  Formula|null  $use  the value instead, for `use`
     */
    public function __construct(
        public readonly string $name,
        public readonly Formula $value,
        public readonly string $none,
        public readonly ?Formula $use,
    ) {
    }
}
