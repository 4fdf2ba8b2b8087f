<?php

declare(strict_types=1);

namespace Sorvel\Core\Rule;

/** What makes a rule look at a record. One file a kind, made by {@see \Sorvel\Core\Format\RuleBuilder}. */
interface Start
{
    /**
     * Why the rule is due now, or null.
     *
     * @return array{kind: string, field?: string, from?: mixed, to?: mixed}|null plain data for the trace
     */
    public function why(Moment $moment): ?array;

    /** @return list<string> the fields whose change can make the rule due */
    public function watches(): array;
}
