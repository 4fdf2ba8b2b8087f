<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel\BuiltIn;

use Sorvel\Core\Feel\FunctionValue;

/** One chapter of built-in functions (10.3.4). */
interface FunctionSet
{
    /** @return list<FunctionValue> */
    public static function functions(): array;
}
