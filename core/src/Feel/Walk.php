<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel;

use Sorvel\Core\Feel\Node\Name;

/** Going over a tree. */
final class Walk
{
    /** @return iterable<Node> the node and everything under it, outer before inner */
    public static function all(Node $node): iterable
    {
        yield $node;
        foreach ($node->parts() as $part) {
            yield from self::all($part);
        }
    }

    /** @var \WeakMap<Node, list<string>>|null */
    private static ?\WeakMap $names = null;

    public static function readsName(Node $node, string $name): bool
    {
        return in_array($name, self::names($node), true);
    }

    /** @return list<string> every name that stands anywhere in the tree */
    public static function names(Node $node): array
    {
        self::$names ??= new \WeakMap;
        if (! isset(self::$names[$node])) {
            $names = [];
            foreach (self::all($node) as $inner) {
                if ($inner instanceof Name) {
                    $names[$inner->name] = true;
                }
            }
            self::$names[$node] = array_keys($names);
        }

        return self::$names[$node];
    }

    public static function readsAnyName(Node $node): bool
    {
        return self::names($node) !== [];
    }
}
