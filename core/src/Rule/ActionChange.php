<?php

declare(strict_types=1);

namespace Sorvel\Core\Rule;

use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Rulebook;

/** Does something beside the record, once it has settled. */
interface ActionChange extends ChangeColumn
{
    /**
     * What is to be done, as plain data; null for nothing.
     *
     * @param  mixed  $cell  the value of the cell's formula
     * @param  \Closure(Formula): mixed  $value  of the column's other formulas
     * @return array<string, mixed>|null
     *
     * @throws Misfit when the cell is nothing that this can do
     */
    public function action(mixed $cell, \Closure $value, Rulebook $rulebook): ?array;

    /** @return list<Formula> the column's own formulas */
    public function formulas(): array;
}
