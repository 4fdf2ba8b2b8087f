<?php

declare(strict_types=1);

namespace Sorvel\Core\Format;

use Symfony\Component\Yaml\Yaml;

/**
 * Trees to files. Keys stand in the order of the schema and what equals its default is left out, so the same rulebook
 * always gives the same bytes.
 */
final class Writer
{
    private const DEFAULTS = [
        'enabled' => true, 'repeat' => 'each', 'decide' => 'first', 'when' => 'always', 'hit' => 'unique', 'required' => false,
        'active' => true, 'role' => 'agent', 'requester' => 'shown', 'away' => false, 'purpose' => '', 'questions' => [], 'look_ups' => [], 'checks' => [],
        'members' => [], 'guards' => [], 'mirrors' => [], 'rules' => [], 'tables' => [], 'types' => [], 'people' => [], 'teams' => [], 'given' => [],
    ];

    /** @var array<string, list<string>> */
    private static array $orders = [];

    /** @param  array<array-key, mixed>  $tree */
    public static function rulebook(array $tree): string
    {
        return self::dump(self::normal($tree, 'rulebook'));
    }

    /** @param  array<array-key, mixed>  $tree */
    public static function samples(array $tree): string
    {
        return self::dump(self::normal($tree, 'samples'));
    }

    /**
     * @param  array<array-key, mixed>  $tree
     * @param  'rulebook'|'samples'  $schema
     * @return array<array-key, mixed>
     */
    public static function normal(array $tree, string $schema): array
    {
        return self::sorted($tree, self::order($schema));
    }

    /** @param  array<array-key, mixed>  $tree */
    private static function dump(array $tree): string
    {
        return Yaml::dump($tree, 5, 2, Yaml::DUMP_MULTI_LINE_LITERAL_BLOCK | Yaml::DUMP_EMPTY_ARRAY_AS_SEQUENCE);
    }

    /**
     * @param  array<array-key, mixed>  $tree
     * @param  list<string>  $order
     * @return array<array-key, mixed>
     */
    private static function sorted(array $tree, array $order): array
    {
        if (! array_is_list($tree)) {
            foreach ($tree as $key => $value) {
                if ($order !== [] && array_key_exists($key, self::DEFAULTS) && self::DEFAULTS[$key] === $value) {
                    unset($tree[$key]);
                }
            }
            $place = array_flip($order);
            uksort($tree, fn (string|int $a, string|int $b): int => ($place[$a] ?? 1000) <=> ($place[$b] ?? 1000));
        }
        foreach ($tree as $key => $value) {
            // what a record is given, changed with or expected to be keeps the order it was written in
            $free = in_array($key, ['with', 'given', 'expect'], true);
            $tree[$key] = is_array($value) ? self::sorted($value, $free ? [] : $order) : $value;
        }

        return $tree;
    }

    /** @return list<string> every key of the schema, in the order first named */
    private static function order(string $schema): array
    {
        if (! isset(self::$orders[$schema])) {
            $order = [];
            $collect = function (mixed $node) use (&$collect, &$order): void {
                foreach (is_array($node) ? $node : [] as $key => $value) {
                    if ($key === 'properties' && is_array($value)) {
                        array_push($order, ...array_map(strval(...), array_keys($value)));
                    }
                    $collect($value);
                }
            };
            $collect(json_decode((string) file_get_contents(__DIR__.'/schema/'.$schema.'.schema.json'), true));
            self::$orders[$schema] = array_values(array_unique($order));
        }

        return self::$orders[$schema];
    }
}
