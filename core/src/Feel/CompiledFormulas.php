<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel;

/**
 * Formulas compiled to PHP, by their text. A rulebook's are written to one file, which the opcode cache keeps over
 * requests; a formula that is in no loaded file is evaluated on its tree.
 */
final class CompiledFormulas
{
    /** @var array<string, \Closure(Scope, Warnings): mixed> */
    private static array $formulas = [];

    /** @var array<string, \Closure(Scope, Warnings, mixed): (bool|null)> */
    private static array $tests = [];

    /** @return (\Closure(Scope, Warnings): mixed)|null */
    public static function formula(string $source): ?\Closure
    {
        return self::$formulas[$source] ?? null;
    }

    /** @return (\Closure(Scope, Warnings, mixed): (bool|null))|null */
    public static function tests(string $source): ?\Closure
    {
        return self::$tests[$source] ?? null;
    }

    /**
     * @param  iterable<Formula>  $formulas
     * @param  iterable<UnaryTests>  $tests
     * @return string a PHP file that returns both maps
     */
    public static function source(iterable $formulas, iterable $tests): string
    {
        return "<?php\n\nreturn [".implode(',', self::maps($formulas, $tests))."];\n";
    }

    /**
     * @param  iterable<Formula>  $formulas
     * @param  iterable<UnaryTests>  $tests
     * @return array{string, string} the sources of both maps
     */
    public static function maps(iterable $formulas, iterable $tests): array
    {
        [$a, $b] = [[], []];
        foreach ($formulas as $formula) {
            $a[$formula->source] = var_export($formula->source, true).'=>'.Compiler::formula($formula->tree);
        }
        foreach ($tests as $test) {
            $b[$test->source] = var_export($test->source, true).'=>'.Compiler::tests($test->tests);
        }

        return ["[\n".implode(",\n", $a)."\n]", "[\n".implode(",\n", $b)."\n]"];
    }

    public static function load(string $file): void
    {
        self::know(...require $file);
    }

    /**
     * @param  array<string, \Closure(Scope, Warnings): mixed>  $formulas
     * @param  array<string, \Closure(Scope, Warnings, mixed): (bool|null)>  $tests
     */
    public static function know(array $formulas, array $tests): void
    {
        self::$formulas = $formulas + self::$formulas;
        self::$tests = $tests + self::$tests;
    }

    public static function forget(): void
    {
        self::$formulas = [];
        self::$tests = [];
    }
}
