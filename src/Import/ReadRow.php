<?php

declare(strict_types=1);

namespace Sorvel\App\Import;

/** A row as values of a record. */
final class ReadRow
{
    /**
     * @param  'create'|'update'  $fate
     * @param  string|null  $record  id of the record that it changes, or that it is to have
     * @param  array<string, mixed>  $values
     * @param  list<string>  $reasons  why it cannot be done
     */
    public function __construct(public readonly int $number, public readonly string $fate, public readonly ?string $record, public readonly array $values, public readonly array $reasons)
    {
    }
}
