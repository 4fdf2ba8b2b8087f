<?php

declare(strict_types=1);

namespace Sorvel\Core\Model\Kind;

use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Viewer;

/** How the values of one field type behave. */
interface FieldKind
{
    /**
     * The value as it is stored.
     *
     * @param  mixed  $value  a FEEL value or plain JSON data; never empty
     * @param  bool  $byRule  set by a rule: a number is rounded to the field's decimals, where a person is told instead
     *
     * @throws Misfit
     */
    public function fit(mixed $value, Field $field, Viewer $viewer, bool $byRule): mixed;

    /**
     * The stored value as a formula sees it.
     *
     * @param  string  $path  where formulas find it, with a dot at the end
     */
    public function seen(mixed $stored, Field $field, Viewer $viewer, string $path): mixed;

    /** The stored value in words, as a cell of a sheet holds it; {@see read} takes the same words back. Never empty. */
    public function words(mixed $stored, Field $field, Viewer $viewer): string;

    /**
     * Words from a cell, as data that {@see fit} takes.
     *
     * @param  string  $words  trimmed, never empty
     *
     * @throws Misfit
     */
    public function read(string $words, Field $field, Viewer $viewer): mixed;
}
