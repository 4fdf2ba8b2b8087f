<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

/** Expressions that come to the same wherever they stand in a function: each is worked out where it is first come to. */
final class SameCode
{
    /** @var array<string, string> variable by expression */
    private array $variables = [];

    public function once(string $expression): string
    {
        $this->variables[$expression] ??= '$o'.count($this->variables);

        return sprintf('(%s??=%s)', $this->variables[$expression], $expression);
    }
}
