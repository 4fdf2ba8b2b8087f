<?php

declare(strict_types=1);

namespace Sorvel\Core\Rule;

use Sorvel\Core\Engine\EventKind;

/** A message about the record, or one that opens it. */
final class ReceivedStart implements Start
{
    public function kind(): string
    {
        return 'received';
    }

    public function why(Moment $moment): ?array
    {
        return $moment->event?->kind === EventKind::Received ? ['kind' => 'received', 'from' => $moment->event->data['message']['from'] ?? null, 'subject' => $moment->event->data['message']['subject'] ?? null] : null;
    }

    public function watches(): array
    {
        return [];
    }
}
