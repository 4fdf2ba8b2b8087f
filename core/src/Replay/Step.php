<?php

declare(strict_types=1);

namespace Sorvel\Core\Replay;

final class Step
{
    /**
     * @param  string  $target  the type of a creation, the id of a change, the moment of a clock step
     * @param  string|null  $as  the id of the created record
     * @param  array<string, mixed>  $with  incoming values, plain data
     * @param  int  $repeat  how many records a creation makes; expectations hold for each
     */
    public function __construct(
        public readonly StepKind $kind,
        public readonly string $target,
        public readonly ?string $as,
        public readonly ?string $by,
        public readonly array $with,
        public readonly int $repeat,
        public readonly Expectation $expect,
    ) {
    }
}
