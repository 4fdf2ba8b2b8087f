<?php

declare(strict_types=1);

namespace Sorvel\Core\Rule;

use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Table\Row;

/** Starts, a condition, look-ups, and a grid of check and change columns. */
final class Rule
{
    /** @var list<string> every field whose change can make it due */
    public readonly array $watches;

    public readonly bool $startsOnCreation;

    /**
     * @param  non-empty-list<string>  $on  types
     * @param  list<Start>  $starts
     * @param  array<string, LookUp>  $lookUps
     * @param  bool  $everyRow  every matching row acts, not only the first
     * @param  list<Formula>  $checks
     * @param  list<ChangeColumn>  $changes
     * @param  list<Row>  $rows
     */
    public function __construct(
        public readonly string $key,
        public readonly string $title,
        public readonly array $on,
        public readonly bool $enabled,
        public readonly array $starts,
        public readonly ?Formula $onlyIf,
        public readonly array $lookUps,
        public readonly bool $everyRow,
        public readonly array $checks,
        public readonly array $changes,
        public readonly array $rows,
    ) {
        $watches = [];
        $created = false;
        foreach ($starts as $start) {
            array_push($watches, ...$start->watches());
            $created = $created || $start instanceof CreatedStart;
        }
        $this->watches = array_values(array_unique($watches));
        $this->startsOnCreation = $created;
    }
}
