<?php

declare(strict_types=1);

namespace Sorvel\Core\Model;

/** A field of one type that records of another take over, found through references. */
final class Dependency
{
    /**
     * @param  string  $type  whose field is read
     * @param  non-empty-list<array{string, string}>  $hops  from a record of that type to those that read it: a type and its field that refers to the one before
     */
    public function __construct(public readonly string $type, public readonly string $field, public readonly array $hops)
    {
    }
}
