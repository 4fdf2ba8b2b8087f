<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel;

final class PlainContext implements Context
{
    /** @param  array<string, mixed>  $entries */
    public function __construct(private readonly array $entries)
    {
    }

    public function has(string $name): bool
    {
        return array_key_exists($name, $this->entries);
    }

    public function get(string $name): mixed
    {
        return $this->entries[$name] ?? null;
    }

    public function names(): array
    {
        return array_map('strval', array_keys($this->entries));
    }

    public function identity(): ?string
    {
        return null;
    }
}
