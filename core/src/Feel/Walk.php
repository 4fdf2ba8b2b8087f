<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel;

use Sorvel\Core\Feel\Node\Name;
use Sorvel\Core\Feel\Node\Path;

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

    /** @var \WeakMap<Node, array<string, true>>|null */
    private static ?\WeakMap $fields = null;

    /** Whether a formula on a record may read one of its fields: bare, or as a part of `record`; when `record` stands alone, it may read any. */
    public static function mayRead(?Node $node, string $field): bool
    {
        if ($node === null) {
            return false;
        }
        self::$fields ??= new \WeakMap;
        if (! isset(self::$fields[$node])) {
            $fields = [];
            $whole = 0;
            foreach (self::all($node) as $inner) {
                if ($inner instanceof Name) {
                    $fields[$inner->name] = true;
                    $whole += $inner->name === 'record' ? 1 : 0;
                } elseif ($inner instanceof Path && $inner->of instanceof Name && $inner->of->name === 'record') {
                    $fields[$inner->name] = true;
                    $whole--;
                }
            }
            self::$fields[$node] = $whole > 0 ? ['record' => true] : array_diff_key($fields, ['record' => 1]);
        }

        return isset(self::$fields[$node][$field]) || isset(self::$fields[$node]['record']);
    }

    public static function readsAnyName(Node $node): bool
    {
        return self::names($node) !== [];
    }
}
