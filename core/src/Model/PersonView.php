<?php

declare(strict_types=1);

namespace Sorvel\Core\Model;

use Sorvel\Core\Feel\Context;

/** A person as a formula sees them. */
final class PersonView implements Context
{
    public const NAMES = ['key', 'name', 'email', 'active', 'away', 'team'];

    public function __construct(private readonly Person $person, private readonly Viewer $viewer)
    {
    }

    public function has(string $name): bool
    {
        return in_array($name, self::NAMES, true);
    }

    public function get(string $name): mixed
    {
        if ($name === 'team') {
            $team = $this->viewer->rulebook->teamOf($this->person->key);

            return $team === null ? null : new TeamView($team);
        }

        return match ($name) {
            'key' => $this->person->key,
            'name' => $this->person->name,
            'email' => $this->person->email,
            'active' => $this->person->active,
            'away' => $this->person->away,
            default => null,
        };
    }

    public function names(): array
    {
        return self::NAMES;
    }

    public function identity(): string
    {
        return $this->person->key;
    }
}
