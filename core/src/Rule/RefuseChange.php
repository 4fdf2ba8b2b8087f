<?php

declare(strict_types=1);

namespace Sorvel\Core\Rule;

use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\Rulebook;

/** `{refuse: save}`: its cell is the reason; null lets it pass. */
final class RefuseChange implements ActionChange
{
    public function kind(): string
    {
        return 'refuse';
    }

    public function action(mixed $cell, \Closure $value, Rulebook $rulebook): ?array
    {
        if (Record::isEmpty($cell)) {
            return null;
        }

        return is_string($cell) ? ['reason' => $cell] : throw new Misfit('a reason must come to a text.');
    }

    public function formulas(): array
    {
        return [];
    }
}
