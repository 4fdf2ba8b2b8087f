<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

use Sorvel\Core\Feel\Scope;
use Sorvel\Core\Feel\Warnings;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\Viewer;

/**
 * What stands around the rules of a type, compiled: mirrors, derived fields, guards, and what tallies count of it. What takes more to know stops
 * the evaluation, and is walked.
 */
final class Frame
{
    /**
     * @param  array<string, \Closure(EventScope, Scope, Warnings): mixed>  $steps  by step of the course, what its field is to be, stored form
     * @param  array<string, \Closure(EventScope, Scope, Warnings): bool>  $when  by guard, whether it is in force
     * @param  array<string, \Closure(Record, EventScope, Scope, Warnings): bool>  $only  by guard, whether a record remains among the choices
     * @param  (\Closure(Event, Record|null, EventScope, Viewer): (Begun|null))|null  $begin  what comes in and what follows from it at once; null where it takes more to know, and then nothing has happened
     * @param  array<string, \Closure(Record): bool>  $counts  by the condition of a tally, whether a record of the type counts
     */
    public function __construct(public readonly array $steps = [], public readonly array $when = [], public readonly array $only = [], public readonly ?\Closure $begin = null, public readonly array $counts = [])
    {
    }
}
