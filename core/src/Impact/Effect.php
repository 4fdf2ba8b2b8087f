<?php

declare(strict_types=1);

namespace Sorvel\Core\Impact;

/** What another rulebook would have made of one past event. */
final class Effect
{
    /**
     * @param  'same'|'otherwise'|'not_known'  $verdict
     * @param  list<array{field: string, was: mixed, would: mixed, rule: string|null}>  $fields  those that would have come out otherwise; the rule that would have set them last
     * @param  list<string>  $starts  rules that would have acted and did not
     * @param  list<string>  $stops  rules that acted and would not have
     * @param  string|null  $why  why it is not known, or why the save would have been turned down
     */
    public function __construct(public readonly string $verdict, public readonly array $fields = [], public readonly array $starts = [], public readonly array $stops = [], public readonly ?string $why = null)
    {
    }
}
