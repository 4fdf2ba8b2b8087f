<?php

declare(strict_types=1);

namespace Sorvel\Core\Model;

use Sorvel\Core\Feel\Context;

/** The option of a two-step choice as a formula sees it: equal to its key, with the step above it as a part. */
final class OptionView implements Context
{
    public const NAMES = ['key', 'label', 'parent'];

    public function __construct(private readonly Option $option, private readonly ?Option $parent)
    {
    }

    public function has(string $name): bool
    {
        return in_array($name, self::NAMES, true);
    }

    public function get(string $name): mixed
    {
        return match ($name) {
            'key' => $this->option->key,
            'label' => $this->option->label,
            'parent' => $this->parent === null ? null : new self($this->parent, null),
            default => null,
        };
    }

    public function names(): array
    {
        return self::NAMES;
    }

    public function identity(): string
    {
        return $this->option->key;
    }
}
