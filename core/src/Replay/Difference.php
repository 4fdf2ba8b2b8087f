<?php

declare(strict_types=1);

namespace Sorvel\Core\Replay;

/** One expectation that did not come out. */
final class Difference
{
    /**
     * @param  string|null  $record  null when it is not about a record's field
     * @param  string  $field  a field key, or acted, still, problems, refused
     * @param  mixed  $expected  plain data
     * @param  mixed  $actual  plain data
     */
    public function __construct(public readonly ?string $record, public readonly string $field, public readonly mixed $expected, public readonly mixed $actual)
    {
    }
}
