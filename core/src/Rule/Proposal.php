<?php

declare(strict_types=1);

namespace Sorvel\Core\Rule;

/** What a change column wants its field to become; or why it leaves it alone. */
final class Proposal
{
    /** @param  array<string, string>  $turns  who was given a turn, by team */
    private function __construct(public readonly bool $keeps, public readonly mixed $value, public readonly string $why, public readonly array $turns = [])
    {
    }

    /** @param  array<string, string>  $turns  who was given a turn, by team */
    public static function become(mixed $value, string $why = '', array $turns = []): self
    {
        return new self(false, $value, $why, $turns);
    }

    public static function keep(string $why): self
    {
        return new self(true, null, $why);
    }
}
