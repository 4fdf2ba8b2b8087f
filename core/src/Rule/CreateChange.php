<?php

declare(strict_types=1);

namespace Sorvel\Core\Rule;

use Sorvel\Core\Feel\Context;
use Sorvel\Core\Feel\Values;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Rulebook;

/** `{create: TYPE}`: its cell is a context of fields; null makes nothing. */
final class CreateChange implements ActionChange
{
    public function __construct(public readonly string $type)
    {
    }

    public function kind(): string
    {
        return 'create';
    }

    public function action(mixed $cell, \Closure $value, Rulebook $rulebook): ?array
    {
        if ($cell === null) {
            return null;
        }
        if (! $cell instanceof Context || $cell->identity() !== null) {
            throw new Misfit('what is to be created must come to a context of fields, such as {title: "…"}.');
        }
        $with = [];
        foreach ($cell->names() as $name) {
            $of = $cell->get($name);
            $with[$name] = is_array($of) ? array_map(Values::json(...), $of) : Values::json($of);
        }

        return ['type' => $this->type, 'with' => $with];
    }

    public function formulas(): array
    {
        return [];
    }
}
