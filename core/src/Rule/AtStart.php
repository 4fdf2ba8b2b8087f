<?php

declare(strict_types=1);

namespace Sorvel\Core\Rule;

use Sorvel\Core\Engine\EventKind;
use Sorvel\Core\Feel\Formula;

/** At the times of a cron expression, on the desk's clock, each record of the rule's types that fits the filter. */
final class AtStart implements Start
{
    /**
     * @param  int  $place  among the rule's starts
     * @param  array<string, Criteria>  $criteria  what the filter asks of stored values, by type
     */
    public function __construct(public readonly int $place, public readonly string $cron, public readonly ?Formula $for, public readonly array $criteria)
    {
    }

    public function kind(): string
    {
        return 'at';
    }

    public function why(Moment $moment): ?array
    {
        return $moment->event?->kind === EventKind::At && ($moment->event->due[$moment->rule] ?? null) === $this->place ? ['kind' => 'at', 'cron' => $this->cron] : null;
    }

    public function watches(): array
    {
        return [];
    }
}
