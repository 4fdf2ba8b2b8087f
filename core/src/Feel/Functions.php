<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel;

/** The built-in functions by name (10.3.4). */
final class Functions
{
    private const SETS = [BuiltIn\TextFunctions::class, BuiltIn\ListFunctions::class, BuiltIn\NumberFunctions::class, BuiltIn\OtherFunctions::class, BuiltIn\TemporalFunctions::class, BuiltIn\RangeFunctions::class];

    /** @var array<string, FunctionValue>|null */
    private static ?array $functions = null;

    /** @var array<string, list<list<string>>>|null names of several words, by first word, longest first */
    private static ?array $longNames = null;

    public static function find(string $name): ?FunctionValue
    {
        return (self::$functions ?? self::all())[$name] ?? null;
    }

    /** @return array<string, FunctionValue> */
    public static function all(): array
    {
        if (self::$functions === null) {
            self::$functions = [];
            foreach (self::SETS as $set) {
                foreach ($set::functions() as $function) {
                    self::$functions[$function->name] = $function;
                }
            }
        }

        return self::$functions;
    }

    /**
     * The longest known name that starts with a word and goes on with the words ahead.
     *
     * @param  callable(int): ?string  $ahead  the word so many places further, from 0
     * @return array{string, int}|null the name, and how many further words it took
     */
    public static function longestName(string $first, callable $ahead): ?array
    {
        if (self::$longNames === null) {
            self::$longNames = [];
            foreach (array_keys(self::all()) as $name) {
                $words = explode(' ', $name);
                if (count($words) > 1) {
                    self::$longNames[$words[0]][] = $words;
                }
            }
            foreach (self::$longNames as &$names) {
                usort($names, fn (array $a, array $b): int => count($b) <=> count($a));
            }
        }
        foreach (self::$longNames[$first] ?? [] as $words) {
            $fits = true;
            for ($i = 1; $i < count($words) && $fits; $i++) {
                $fits = $ahead($i - 1) === $words[$i];
            }
            if ($fits) {
                return [implode(' ', $words), count($words) - 1];
            }
        }

        return null;
    }
}
