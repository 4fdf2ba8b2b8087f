<?php

declare(strict_types=1);

namespace Sorvel\Core\Rule;

/** Also for what a message opens. */
final class CreatedStart implements Start
{
    public function kind(): string
    {
        return 'created';
    }

    public function why(Moment $moment): ?array
    {
        return $moment->event !== null && $moment->isCreation ? ['kind' => 'created'] : null;
    }

    public function watches(): array
    {
        return [];
    }
}
