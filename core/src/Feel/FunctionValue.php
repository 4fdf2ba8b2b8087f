<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel;

/** Something that can be called: a built-in function, a table (10.3.2.13). */
final class FunctionValue
{
    /** How many arguments it takes at most; null when there is no end. */
    public readonly ?int $most;

    /**
     * @param  list<string>  $parameters  names, in order
     * @param  \Closure(list<mixed>, Warnings): mixed  $body
     * @param  int  $required  how many arguments must be given
     * @param  bool  $variadic  whether more than the named ones may be given
     * @param  list<list<string>>  $others  other lists of parameter names that it may be called with
     */
    public function __construct(
        public readonly string $name,
        public readonly array $parameters,
        public readonly \Closure $body,
        public readonly int $required,
        public readonly bool $variadic = false,
        public readonly array $others = [],
    ) {
        $this->most = $variadic ? null : max(array_map(count(...), [$parameters, ...$others]));
    }
}
