<?php

declare(strict_types=1);

namespace Sorvel\Core\Rule;

/** A change column of a grid: a {@see FieldChange} or an {@see ActionChange}. One file a kind, made by {@see \Sorvel\Core\Format\ChangeBuilder}. */
interface ChangeColumn
{
    /** The word that the format uses: set, add, clear, note. */
    public function kind(): string;
}
