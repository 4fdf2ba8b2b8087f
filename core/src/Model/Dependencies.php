<?php

declare(strict_types=1);

namespace Sorvel\Core\Model;

use Sorvel\Core\Feel\Node;
use Sorvel\Core\Feel\Node\Filter;
use Sorvel\Core\Feel\Node\Name;
use Sorvel\Core\Feel\Node\Path;
use Sorvel\Core\Feel\Walk;

/** What a formula reads across references. */
final class Dependencies
{
    /**
     * @param  array<string, RecordType>  $types
     * @return list<Dependency>
     */
    public static function of(Node $formula, RecordType $on, array $types): array
    {
        $found = [];
        foreach (Walk::all($formula) as $node) {
            foreach ($node instanceof Path || $node instanceof Filter ? self::at($node, $on, $types) : [] as $dependency) {
                $found[serialize($dependency)] = $dependency;
            }
        }

        return array_values($found);
    }

    /**
     * @param  array<string, RecordType>  $types
     * @return list<Dependency>
     */
    private static function at(Path|Filter $node, RecordType $on, array $types): array
    {
        $way = self::way($node->of, $on, $types);
        if ($way === null) {
            return [];
        }
        [$type, $hops] = $way;
        if ($node instanceof Path) {
            return isset($type->fields[$node->name]) ? [new Dependency($type->key, $node->name, $hops)] : [];
        }
        // inside a filter the fields of each record stand bare
        $read = array_intersect(Walk::names($node->by), array_map(strval(...), array_keys($type->fields)));

        return array_map(fn (string $field): Dependency => new Dependency($type->key, $field, $hops), array_values($read));
    }

    /**
     * The type that a chain of references leads to, and the way back from it.
     *
     * @param  array<string, RecordType>  $types
     * @return array{RecordType, non-empty-list<array{string, string}>}|null
     */
    private static function way(Node $node, RecordType $on, array $types): ?array
    {
        if ($node instanceof Filter) {
            return self::way($node->of, $on, $types);
        }
        if ($node instanceof Name) {
            $to = $types[(string) ($on->fields[$node->name] ?? null)?->to] ?? null;

            return $to === null ? null : [$to, [[$on->key, $node->name]]];
        }
        if (! $node instanceof Path) {
            return null;
        }
        if ($node->of instanceof Name && $node->of->name === 'record') {
            return self::way(new Name($node->name, 0, 0), $on, $types);
        }
        $way = self::way($node->of, $on, $types);
        $to = $way === null ? null : $types[(string) ($way[0]->fields[$node->name] ?? null)?->to] ?? null;

        return $way === null || $to === null ? null : [$to, [[$way[0]->key, $node->name], ...$way[1]]];
    }
}
