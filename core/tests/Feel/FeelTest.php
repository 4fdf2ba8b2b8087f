<?php

declare(strict_types=1);

namespace Sorvel\Core\Tests\Feel;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Sorvel\Core\Feel\Examples;
use Sorvel\Core\Feel\FeelError;
use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Feel\Functions;
use Sorvel\Core\Feel\Json;
use Sorvel\Core\Feel\MapScope;
use Sorvel\Core\Feel\Printer;
use Sorvel\Core\Feel\Temporal\DateTime;
use Sorvel\Core\Feel\UnaryTests;
use Sorvel\Core\Feel\Values;
use Sorvel\Core\Feel\Warnings;

/**
 * Fixtures: a line `expression => value`, where the value is JSON, `warning` (null with a warning) or `error: words`
 * (does not parse). A line `? value : tests => value` tries unary tests. `# …` names the section of the standard.
 */
final class FeelTest extends TestCase
{
    private const CONTEXT = ['n' => 5, 'd' => '0.1', 't' => 'abc', 'nothing' => null, 'yes' => true, 'list' => [1, 2, 3], 'ctx' => ['a' => 1, 'b' => ['c' => 'x']], 'people' => [['name' => 'Ann', 'age' => 30], ['name' => 'Bo', 'age' => 20]]];

    /** @return iterable<string, array{string, string}> */
    public static function fixtures(): iterable
    {
        foreach (glob(__DIR__.'/fixtures/*.txt') ?: [] as $file) {
            foreach (file($file, FILE_IGNORE_NEW_LINES) ?: [] as $line => $text) {
                if ($text !== '' && $text[0] !== '#') {
                    [$expression, $expected] = explode(' => ', $text, 2);
                    yield basename($file).':'.($line + 1) => [$expression, $expected];
                }
            }
        }
    }

    #[DataProvider('fixtures')]
    public function test_fixture(string $expression, string $expected): void
    {
        $warnings = new Warnings;
        $scope = new MapScope(array_map(Values::fromJson(...), self::CONTEXT));
        try {
            if (preg_match('~^\? (.*?) : (.*)$~', $expression, $match) === 1) {
                $value = UnaryTests::parse($match[2])->hold(Values::fromJson(json_decode($match[1])), $scope, $warnings);
            } else {
                $formula = Formula::parse($expression);
                $printed = (new Printer)->print($formula->tree);
                self::assertSame($printed, (new Printer)->print(Formula::parse($printed)->tree), 'printing is stable');
                $value = $formula->value($scope, $warnings);
                self::assertSame(Json::encode($value), Json::encode(Formula::parse($printed)->value($scope, new Warnings)), 'what is printed means the same');
            }
        } catch (FeelError $error) {
            self::assertStringStartsWith('error', $expected, $error->getMessage());
            self::assertStringContainsString(trim(substr($expected, 6)), $error->getMessage());
            self::assertLessThanOrEqual(strlen($expression), $error->to);

            return;
        }
        if ($expected === 'warning') {
            self::assertNull($value);
            self::assertNotSame([], $warnings->all());

            return;
        }
        self::assertSame(Json::encode(Json::decode($expected)), Json::encode($value), json_encode($warnings->all()) ?: '');
    }

    public function test_every_function_has_examples_and_every_example_has_a_value(): void
    {
        self::assertEqualsCanonicalizing(array_keys(Functions::all()), array_keys(Examples::functions()));
        foreach ([...array_merge(...array_column(Examples::operators(), 'formulas')), ...array_merge(...array_values(Examples::functions()))] as $example) {
            $warnings = Warnings::at(DateTime::parse('2027-03-04T09:00:00Z'));
            $value = Formula::parse($example)->value(new MapScope, $warnings);
            self::assertSame([], $warnings->all(), $example);
            self::assertTrue($value !== null || $example === 'true and null', $example);
        }
    }

    public function test_bounds_hold(): void
    {
        $value = fn (string $source): array => (function () use ($source): array {
            $warnings = new Warnings;

            return [Formula::parse($source)->value(new MapScope, $warnings), $warnings->all()[0]['message'] ?? ''];
        })();

        self::assertStringContainsString('steps', $value('for i in 1..1000000000 return i')[1]);
        self::assertStringContainsString('steps', $value('some a in 1..10000, b in 1..10000 satisfies a + b < 0')[1]);
        self::assertNull($value('9 ** 999 ** 999')[0]);
        self::assertNull($value('matches("aaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaa!", "^(a+)+$")')[0]);
        $this->expectException(FeelError::class);
        Formula::parse(str_repeat('(', 10000).'1'.str_repeat(')', 10000));
    }

    public function test_an_error_points_at_its_place(): void
    {
        try {
            Formula::parse('1 + * 2');
            self::fail('It parsed.');
        } catch (FeelError $error) {
            self::assertSame(['message' => 'Expected a value, found "*".', 'from' => 4, 'to' => 5, 'expected' => 'a value'], $error->toArray());
        }
    }
}
