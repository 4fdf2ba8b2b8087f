<?php

declare(strict_types=1);

namespace Sorvel\Core\Model;

final class Team
{
    /** @param  list<string>  $members keys of people */
    public function __construct(public readonly string $key, public readonly string $name, public readonly array $members)
    {
    }
}
