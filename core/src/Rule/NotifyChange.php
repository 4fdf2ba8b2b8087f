<?php

declare(strict_types=1);

namespace Sorvel\Core\Rule;

use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\Rulebook;

/** `{notify: PEOPLE}`: its cell is the text; null tells nobody. */
final class NotifyChange implements ActionChange
{
    public function __construct(private readonly Formula $people)
    {
    }

    public function kind(): string
    {
        return 'notify';
    }

    public function action(mixed $cell, \Closure $value, Rulebook $rulebook): ?array
    {
        if (Record::isEmpty($cell)) {
            return null;
        }
        if (! is_string($cell)) {
            throw new Misfit('what people are told must come to a text.');
        }
        $people = Recipients::people($value($this->people), $rulebook);

        return $people === [] ? null : ['people' => $people, 'text' => $cell];
    }

    public function formulas(): array
    {
        return [$this->people];
    }
}
