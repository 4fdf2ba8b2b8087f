<?php

declare(strict_types=1);

namespace Sorvel\Core\Rule;

use Sorvel\Core\Engine\EventKind;

final class DeletedStart implements Start
{
    public function kind(): string
    {
        return 'deleted';
    }

    public function why(Moment $moment): ?array
    {
        return $moment->event?->kind === EventKind::Deleted ? ['kind' => 'deleted'] : null;
    }

    public function watches(): array
    {
        return [];
    }
}
