<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel;

/** Names given one by one, before those of an outer scope. */
final class MapScope implements Scope
{
    /** @param  array<string, mixed>  $values */
    public function __construct(private array $values = [], private readonly ?Scope $outer = null)
    {
    }

    public function has(string $name): bool
    {
        return array_key_exists($name, $this->values) || ($this->outer?->has($name) ?? false);
    }

    public function get(string $name): mixed
    {
        return array_key_exists($name, $this->values) ? $this->values[$name] : $this->outer?->get($name);
    }

    public function set(string $name, mixed $value): void
    {
        $this->values[$name] = $value;
    }
}
