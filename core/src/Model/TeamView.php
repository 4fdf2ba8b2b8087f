<?php

declare(strict_types=1);

namespace Sorvel\Core\Model;

use Sorvel\Core\Feel\Context;

/** A team as a formula sees it. */
final class TeamView implements Context
{
    public const NAMES = ['key', 'name', 'members'];

    public function __construct(private readonly Team $team)
    {
    }

    public function has(string $name): bool
    {
        return in_array($name, self::NAMES, true);
    }

    public function get(string $name): mixed
    {
        return match ($name) {
            'key' => $this->team->key,
            'name' => $this->team->name,
            'members' => $this->team->members,
            default => null,
        };
    }

    public function names(): array
    {
        return self::NAMES;
    }

    public function identity(): string
    {
        return $this->team->key;
    }
}
