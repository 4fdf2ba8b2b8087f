<?php

declare(strict_types=1);

namespace Sorvel\Core\Rule;

/** What makes a rule look at a record. One file a kind, made by {@see \Sorvel\Core\Format\StartBuilder}. */
interface Start
{
    /** The word that the format uses: created, changed, at. */
    public function kind(): string;

    /**
     * Why the rule is due now, or null.
     *
     * @return array{kind: string, ...<string, mixed>}|null plain data for the trace
     */
    public function why(Moment $moment): ?array;

    /** @return list<string> the fields whose change can make the rule due */
    public function watches(): array;
}
