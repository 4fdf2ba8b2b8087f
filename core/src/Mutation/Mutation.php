<?php

declare(strict_types=1);

namespace Sorvel\Core\Mutation;

use Sorvel\Core\Model\Rulebook;

/** A rulebook changed in one small way. */
final class Mutation
{
    /**
     * @param  'rules'|'tables'|'guards'|'mirrors'  $kind  of the part that is changed
     * @param  string  $key  of that part
     * @param  string  $at  JSON pointer inside the part
     * @param  string  $says  what is changed, in words
     */
    public function __construct(public readonly string $kind, public readonly string $key, public readonly string $at, public readonly string $says, public readonly Rulebook $rulebook)
    {
    }

    public function id(): string
    {
        return $this->kind.'/'.$this->key.$this->at.': '.$this->says;
    }
}
