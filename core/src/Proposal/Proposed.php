<?php

declare(strict_types=1);

namespace Sorvel\Core\Proposal;

/** A sample that nobody has written yet, with its outcome as it came out. */
final class Proposed
{
    /**
     * @param  string  $rule  key of the rule, or of the guard or mirror, that it is about
     * @param  array<string, mixed>  $tree  a sample, with expectations
     * @param  list<string>  $covers  what it touches that nothing touched before, in words
     * @param  'rules'|'guards'|'mirrors'  $kind
     */
    public function __construct(public readonly string $rule, public readonly array $tree, public readonly array $covers, public readonly string $kind = 'rules')
    {
    }
}
