<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel;

/** A value with named entries: a context literal, a record, a person (10.3.2.5). */
interface Context
{
    public function has(string $name): bool;

    public function get(string $name): mixed;

    /** @return list<string> */
    public function names(): array;

    /** Records and people compare by identity; null for a plain context, which compares by its entries. */
    public function identity(): ?string;
}
