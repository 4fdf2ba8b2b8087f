<?php

declare(strict_types=1);

namespace Sorvel\Core\Rule;

use Sorvel\Core\Engine\EventKind;

/** A web call for the record has come back, or has been given up. */
final class AnsweredStart implements Start
{
    public function __construct(public readonly string $call)
    {
    }

    public function kind(): string
    {
        return 'answered';
    }

    public function why(Moment $moment): ?array
    {
        return $moment->event?->kind === EventKind::Answered && ($moment->event->data['call'] ?? null) === $this->call ? ['kind' => 'answered', 'call' => $this->call, 'status' => $moment->event->data['status'] ?? null] : null;
    }

    public function watches(): array
    {
        return [];
    }
}
