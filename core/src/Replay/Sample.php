<?php

declare(strict_types=1);

namespace Sorvel\Core\Replay;

/** A ticket's story with expectations. */
final class Sample
{
    public const FIRST_CLOCK = '2027-01-04T09:00:00';

    /**
     * @param  'act'|'stay_still'|'missing'|'several'|'load'  $proves
     * @param  list<string>  $rules  what it is about
     * @param  array<string, list<array<string, mixed>>>  $given  by type, records as plain data with their id
     * @param  list<Step>  $steps  where there are lines, those of the first
     * @param  list<self>  $lines  the same story with other values and outcomes, one a line of its variants; empty when it is told once
     */
    public function __construct(
        public readonly string $key,
        public readonly string $title,
        public readonly string $proves,
        public readonly array $rules,
        public readonly string $clock,
        public readonly array $given,
        public readonly array $steps,
        public readonly array $lines = [],
    ) {
    }
}
