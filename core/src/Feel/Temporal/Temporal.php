<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel\Temporal;

/** A date, a time, a date and time, or a duration (10.3.2.3.4 to 10.3.2.3.8). */
interface Temporal extends \Stringable
{
    /** Equal in value; null when the two cannot be compared. */
    public function equals(Temporal $other): ?bool;

    /** Less than, equal or greater than 0; null when the two have no order. */
    public function compare(Temporal $other): ?int;

    /** A property such as year or hours; null when there is none of that name. */
    public function property(string $name): mixed;

    /** The standard's name of its type. */
    public function type(): string;

    /** @return list<string> */
    public function properties(): array;
}
