<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel;

/** What a `for` has made so far. */
final class Results
{
    /** @var list<mixed> */
    public array $list = [];

    public function add(mixed $value): void
    {
        $this->list[] = $value;
    }
}
