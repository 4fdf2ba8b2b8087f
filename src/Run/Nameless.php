<?php

declare(strict_types=1);

namespace Sorvel\App\Run;

use Sorvel\Core\Model\Person;
use Sorvel\Core\Model\Role;
use Sorvel\Core\Model\Rulebook;

/** A sample without the personal data of requesters: who they are is left out, and their names and addresses in texts are replaced. */
final class Nameless
{
    /**
     * @param  array<string, mixed>  $tree
     * @return array<string, mixed>
     */
    public static function tree(array $tree, Rulebook $rulebook): array
    {
        $requesters = array_filter($rulebook->people, fn (Person $p): bool => $p->role === Role::Requester);
        foreach ($tree['steps'] as $i => $step) {
            if (isset($step['by'], $requesters[$step['by']])) {
                unset($tree['steps'][$i]['by']);
            }
        }
        $names = [];
        foreach ($requesters as $person) {
            $names[$person->name] = 'Somebody';
            foreach (explode(' ', $person->name) as $part) {
                if (mb_strlen($part) > 3) {
                    $names[$part] = 'Somebody';
                }
            }
        }

        /** @var array<string, mixed> */
        return self::without($tree, array_map(strval(...), array_keys($requesters)), $names);
    }

    /**
     * @param  array<array-key, mixed>  $values
     * @param  list<string>  $keys  of requesters
     * @param  array<string, string>  $names
     * @return array<array-key, mixed>
     */
    private static function without(array $values, array $keys, array $names): array
    {
        $isList = array_is_list($values);
        $kept = [];
        foreach ($values as $key => $value) {
            if (is_string($value) && in_array($value, $keys, true)) {
                continue;
            }
            $kept[$key] = match (true) {
                is_array($value) => self::without($value, $keys, $names),
                is_string($value) => (string) preg_replace('~[A-Za-z0-9._%+-]+@[A-Za-z0-9-]+(\.[A-Za-z0-9-]+)+~', 'somebody@mail.example', strtr($value, $names)),
                default => $value,
            };
        }

        return $isList ? array_values($kept) : $kept;
    }
}
