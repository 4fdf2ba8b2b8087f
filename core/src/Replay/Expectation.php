<?php

declare(strict_types=1);

namespace Sorvel\Core\Replay;

/** What must come out of a step. */
final class Expectation
{
    /**
     * @param  array<string, array<string, mixed>>  $records  by record id, the fields that matter, plain data or {test: …}
     * @param  list<string>  $acted
     * @param  list<string>  $still
     * @param  list<string>  $problems  exactly these
     * @param  bool|string|null  $refused  a text must stand in one of the reasons
     * @param  list<string>  $unchanged  ids of records that the step leaves as they were
     * @param  array<'messages'|'calls'|'created'|'notes'|'notices', list<array<string, mixed>>>  $done  exactly these, in order; what is not named is not looked at
     */
    public function __construct(
        public readonly array $records = [],
        public readonly array $acted = [],
        public readonly array $still = [],
        public readonly array $problems = [],
        public readonly bool|string|null $refused = null,
        public readonly array $unchanged = [],
        public readonly array $done = [],
    ) {
    }
}
