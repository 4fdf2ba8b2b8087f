<?php

declare(strict_types=1);

namespace Sorvel\Core\Format;

/** An input that cannot be used, with everything found wrong in it. */
final class InvalidInput extends \RuntimeException
{
    /** @param  non-empty-list<InputError>  $errors */
    public function __construct(public readonly array $errors)
    {
        parent::__construct(implode("\n", array_map(strval(...), $errors)));
    }
}
