<?php

declare(strict_types=1);

namespace Sorvel\Core\Finding;

use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Feel\Node\Name;
use Sorvel\Core\Model\Rulebook;
use Sorvel\Core\Rule\Rule;

/** What can be seen of a rule's check cells at all; the last row of a grid that covers everything cannot fail. */
final class Reach
{
    /** @var \WeakMap<Rule, array<int, array<int, int>>>|null */
    private static ?\WeakMap $known = null;

    /** 1 can hold, 2 can fail, 3 both, 0 is never looked at; 3 where it cannot be told. */
    public static function of(Rule $rule, int $row, int $column, Rulebook $rulebook): int
    {
        self::$known ??= new \WeakMap;
        if (! isset(self::$known[$rule])) {
            $types = array_map(function (Formula $check) use ($rule, $rulebook): KnownType {
                $field = $check->tree instanceof Name ? $rulebook->types[$rule->on[0]]->fields[$check->tree->name] ?? null : null;

                return $field === null ? KnownType::any() : KnownType::ofField($field, $rulebook->types);
            }, $rule->checks);
            $reach = count($rule->on) === 1 && $rule->checks !== [] ? (new Partition($rule->rows, $types))->reach(! $rule->everyRow) : null;
            self::$known[$rule] = $reach ?? [];
        }
        $reach = self::$known[$rule];

        return $reach === [] ? 3 : $reach[$row][$column] ?? 0;
    }
}
