<?php

declare(strict_types=1);

namespace Sorvel\Core\Replay;

final class Step
{
    /**
     * @param  string  $target  the type of a creation or of what a message opens, the id of a change or of what a message is about, the rule that is started by hand, the key of an answered call, the moment of a clock step
     * @param  string|null  $as  the id of the created record
     * @param  array<string, mixed>  $with  incoming values, plain data; of a rule started by hand its inputs
     * @param  int  $repeat  how many records a creation makes; expectations hold for each
     * @param  string|null  $on  the record that a rule is started on, or that a call was made for
     * @param  array<string, mixed>  $data  a message: from, subject, text, html, opens; an answer: status, body
     */
    public function __construct(
        public readonly StepKind $kind,
        public readonly string $target,
        public readonly ?string $as,
        public readonly ?string $by,
        public readonly array $with,
        public readonly int $repeat,
        public readonly Expectation $expect,
        public readonly ?string $on = null,
        public readonly array $data = [],
    ) {
    }
}
