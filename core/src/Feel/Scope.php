<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel;

/** Where names get their values. */
interface Scope
{
    public function has(string $name): bool;

    public function get(string $name): mixed;
}
