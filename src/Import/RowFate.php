<?php

declare(strict_types=1);

namespace Sorvel\App\Import;

/** What a row has come to. */
final class RowFate
{
    /**
     * @param  string  $fate  create, update, same or refused
     * @param  list<string>  $reasons  why it was refused
     * @param  string|null  $record  the id of what it made or changed
     * @param  array<string, mixed>|null  $undo  values before and after, by field
     */
    public function __construct(
        public readonly int $number,
        public readonly string $fate,
        public readonly array $reasons,
        public readonly ?string $record,
        public readonly bool $done,
        public readonly ?array $undo = null,
    ) {
    }
}
