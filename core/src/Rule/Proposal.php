<?php

declare(strict_types=1);

namespace Sorvel\Core\Rule;

/** What a change column wants its field to become; or why it leaves it alone. */
final class Proposal
{
    private function __construct(public readonly bool $keeps, public readonly mixed $value, public readonly string $why)
    {
    }

    public static function become(mixed $value): self
    {
        return new self(false, $value, '');
    }

    public static function keep(string $why): self
    {
        return new self(true, null, $why);
    }
}
