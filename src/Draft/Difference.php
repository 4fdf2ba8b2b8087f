<?php

declare(strict_types=1);

namespace Sorvel\App\Draft;

/** What two rulebook trees differ in, part by part. */
final class Difference
{
    private const LISTS = ['types', 'tables', 'rules', 'guards', 'mirrors', 'teams', 'people'];

    /**
     * @param  array<string, mixed>  $old
     * @param  array<string, mixed>  $new
     * @return list<array{kind: string, key: string, title: string, what: string}>
     */
    public static function between(array $old, array $new): array
    {
        $changes = [];
        foreach (['title', 'timezone', 'approval'] as $key) {
            if (($old[$key] ?? null) !== ($new[$key] ?? null)) {
                $changes[] = ['kind' => 'desk', 'key' => $key, 'title' => $key, 'what' => isset($old[$key]) ? 'changed' : 'added'];
            }
        }
        foreach (self::LISTS as $list) {
            $before = self::byKey($old, $list);
            $after = self::byKey($new, $list);
            foreach ($after as $key => $part) {
                if (! isset($before[$key])) {
                    $changes[] = self::change($list, $part, 'added');
                } elseif (self::text($before[$key]) !== self::text($part)) {
                    $changes[] = self::change($list, $part, 'changed');
                }
            }
            foreach (array_diff_key($before, $after) as $part) {
                $changes[] = self::change($list, $part, 'removed');
            }
            if ($list === 'rules') {
                array_push($changes, ...self::moved($before, $after));
            }
        }

        return $changes;
    }

    /**
     * The parts that differ, each as it was and as it is.
     *
     * @param  array<string, mixed>  $old
     * @param  array<string, mixed>  $new
     * @return list<array{kind: string, key: string, before: object|null, after: object|null}>
     */
    public static function parts(array $old, array $new): array
    {
        $parts = [];
        foreach (self::between($old, $new) as ['kind' => $kind, 'key' => $key, 'what' => $what]) {
            if (in_array($kind, self::LISTS, true) && $what !== 'moved') {
                $before = self::byKey($old, $kind)[$key] ?? null;
                $after = self::byKey($new, $kind)[$key] ?? null;
                $parts[] = ['kind' => $kind, 'key' => $key, 'before' => $before === null ? null : (object) $before, 'after' => $after === null ? null : (object) $after];
            }
        }

        return $parts;
    }

    /**
     * @param  array<string, array<string, mixed>>  $before
     * @param  array<string, array<string, mixed>>  $after
     * @return list<array{kind: string, key: string, title: string, what: string}>
     */
    private static function moved(array $before, array $after): array
    {
        $was = array_values(array_intersect(array_keys($before), array_keys($after)));
        $is = array_values(array_intersect(array_keys($after), array_keys($before)));
        // the fewest rules that explain the new order: those outside the longest run that kept its order
        $place = array_flip($was);
        $kept = self::longestRising(array_map(fn (string|int $key): int => $place[$key], $is));
        $changes = [];
        foreach ($is as $i => $key) {
            if (! isset($kept[$i])) {
                $changes[] = self::change('rules', $after[$key], 'moved');
            }
        }

        return $changes;
    }

    /**
     * @param  list<int>  $numbers
     * @return array<int, true> the places of a longest rising subsequence
     */
    private static function longestRising(array $numbers): array
    {
        $length = [];
        $previous = [];
        $best = -1;
        foreach ($numbers as $i => $number) {
            $length[$i] = 1;
            $previous[$i] = -1;
            for ($j = 0; $j < $i; $j++) {
                if ($numbers[$j] < $number && $length[$i] < $length[$j] + 1) {
                    $length[$i] = $length[$j] + 1;
                    $previous[$i] = $j;
                }
            }
            $best = $best === -1 || $length[$i] > $length[$best] ? $i : $best;
        }
        $kept = [];
        for ($i = $best; $i >= 0; $i = $previous[$i]) {
            $kept[$i] = true;
        }

        return $kept;
    }

    /**
     * @param  array<string, mixed>  $tree
     * @return array<string, array<string, mixed>>
     */
    private static function byKey(array $tree, string $list): array
    {
        $parts = [];
        foreach (is_array($tree[$list] ?? null) ? $tree[$list] : [] as $part) {
            if (is_array($part)) {
                $parts[(string) $part['key']] = $part;
            }
        }

        return $parts;
    }

    /** @param  array<string, mixed>  $part */
    private static function text(array $part): string
    {
        return (string) json_encode($part);
    }

    /**
     * @param  array<string, mixed>  $part
     * @return array{kind: string, key: string, title: string, what: string}
     */
    private static function change(string $list, array $part, string $what): array
    {
        $title = $part['title'] ?? $part['name'] ?? $part['key'];

        return ['kind' => $list, 'key' => (string) $part['key'], 'title' => is_string($title) ? $title : '', 'what' => $what];
    }
}
