<?php

declare(strict_types=1);

namespace Sorvel\Core\Replay;

use Sorvel\Core\Engine\Outcome;

final class StepResult
{
    /**
     * @param  Outcome|null  $outcome  null for a clock step; for a repeated creation that of the last
     * @param  list<Difference>  $differences
     * @param  array<string, array<string, mixed>>  $values  by record id, the values after the step of each record that was given, made or expected, plain data
     */
    public function __construct(
        public readonly ?Outcome $outcome,
        public readonly array $differences,
        public readonly array $values,
    ) {
    }
}
