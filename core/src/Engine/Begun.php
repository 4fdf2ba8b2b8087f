<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

/** A record as an event brings it, with what follows from that at once (1 and 2 of "One event"); nothing stood against it. */
final class Begun
{
    /**
     * @param  list<array{field: string, before: mixed, after: mixed, rule: string|null}>  $changes  plain data, in order
     * @param  array<string, mixed>  $sources  what each mirror's source is, stored form
     * @param  array<string, true>  $pending  steps of the course that have to look again
     * @param  array<string, true>  $mirrored  mirrors that changed their field
     */
    public function __construct(public readonly array $changes, public readonly array $sources, public readonly array $pending, public readonly array $mirrored)
    {
    }
}
