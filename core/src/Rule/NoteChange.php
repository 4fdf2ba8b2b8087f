<?php

declare(strict_types=1);

namespace Sorvel\Core\Rule;

use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\Rulebook;

/** `{note: staff | requester}`: its cell is the text; null writes none. */
final class NoteChange implements ActionChange
{
    /** @param  'staff'|'requester'  $for */
    public function __construct(public readonly string $for)
    {
    }

    public function kind(): string
    {
        return 'note';
    }

    public function action(mixed $cell, \Closure $value, Rulebook $rulebook): ?array
    {
        if (Record::isEmpty($cell)) {
            return null;
        }

        return is_string($cell) ? ['for' => $this->for, 'text' => $cell] : throw new Misfit('a note must come to a text.');
    }

    public function formulas(): array
    {
        return [];
    }
}
