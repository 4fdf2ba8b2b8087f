<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel;

/** The entries of a context as names, as in a filter over records (10.3.2.5). */
final class ContextScope implements Scope
{
    public function __construct(private readonly Context $context, private readonly Scope $outer)
    {
    }

    public function has(string $name): bool
    {
        return $this->context->has($name) || $this->outer->has($name);
    }

    public function get(string $name): mixed
    {
        return $this->context->has($name) ? $this->context->get($name) : $this->outer->get($name);
    }
}
