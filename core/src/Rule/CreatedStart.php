<?php

declare(strict_types=1);

namespace Sorvel\Core\Rule;

final class CreatedStart implements Start
{
    public function why(Moment $moment): ?array
    {
        return $moment->eventKind === 'created' ? ['kind' => 'created'] : null;
    }

    public function watches(): array
    {
        return [];
    }
}
