<?php

declare(strict_types=1);

namespace Sorvel\Core\Tests\Feel;

use Eris\Generators;
use Eris\TestTrait;
use PHPUnit\Framework\TestCase;
use Sorvel\Core\Feel\Compiler;
use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Feel\Fuzz;
use Sorvel\Core\Feel\Json;
use Sorvel\Core\Feel\MapScope;
use Sorvel\Core\Feel\Node;
use Sorvel\Core\Feel\Number;
use Sorvel\Core\Feel\Printer;
use Sorvel\Core\Feel\UnaryTests;
use Sorvel\Core\Feel\Warnings;

/** What holds for every formula, not for the ones that somebody thought of. */
final class PropertyTest extends TestCase
{
    use TestTrait;

    public function test_what_is_printed_parses_to_the_same_tree(): void
    {
        $tried = 0;
        $fuzz = new Fuzz(Fuzz::corpus(__DIR__.'/fixtures'), 7);
        for ($i = 0; $i < 8000; $i++) {
            try {
                $tree = Formula::parse($fuzz->next())->tree;
            } catch (\Sorvel\Core\Feel\FeelError) {
                continue;
            }
            $printed = (new Printer)->print($tree);
            self::assertSame(self::shape($tree), self::shape(Formula::parse($printed)->tree), $printed);
            $tried++;
        }
        self::assertGreaterThan(400, $tried);
    }

    public function test_compiled_and_evaluated_are_equal(): void
    {
        $fuzz = new Fuzz(Fuzz::corpus(__DIR__.'/fixtures'), 11);
        $corpus = Fuzz::corpus(__DIR__.'/fixtures');
        $scope = Fuzz::scope();
        $tried = 0;
        for ($i = 0; $i < 9000; $i++) {
            $source = $corpus[$i] ?? $fuzz->next();
            foreach ([false, true] as $unary) {
                try {
                    $parsed = $unary ? UnaryTests::parse($source) : Formula::parse($source);
                } catch (\Sorvel\Core\Feel\FeelError) {
                    continue;
                }
                $now = \Sorvel\Core\Feel\Temporal\DateTime::parse('2027-03-04T09:00:00Z');
                [$one, $two] = [Warnings::at($now), Warnings::at($now)];
                $evaluated = $parsed instanceof UnaryTests ? $parsed->hold(5, $scope, $one) : $parsed->value($scope, $one);
                $code = $parsed instanceof UnaryTests ? Compiler::tests($parsed->tests) : Compiler::formula($parsed->tree);
                $closure = eval('return '.$code.';');
                try {
                    $compiled = $parsed instanceof UnaryTests ? $closure($scope, $two, 5) : $closure($scope, $two);
                } catch (\Sorvel\Core\Feel\EvaluationStopped) {
                    continue;
                }
                if (! str_contains((string) json_encode($one->all()), 'was stopped')) {
                    self::assertSame(Json::encode($evaluated), Json::encode($compiled), $source."\n".$code);
                    self::assertSame($one->all(), $two->all(), $source);
                }
                $tried++;
            }
        }
        self::assertGreaterThan(2500, $tried);
    }

    public function test_adding_and_taking_away_comes_back(): void
    {
        $this->forAll(Generators::int(), Generators::choose(0, 12), Generators::int(), Generators::choose(0, 12))
            ->then(function (int $a, int $scaleA, int $b, int $scaleB): void {
                [$x, $y] = [self::decimal($a, $scaleA), self::decimal($b, $scaleB)];
                self::assertSame(Json::encode(self::value($x)), Json::encode(self::value("($x) + ($y) - ($y)")));
                self::assertSame(true, self::value("($x) * ($y) = ($y) * ($x)"));
            });
    }

    public function test_date_arithmetic_inverts(): void
    {
        $this->forAll(Generators::choose(-200_000, 200_000), Generators::choose(-100_000, 100_000), Generators::choose(0, 86_399))
            ->then(function (int $days, int $move, int $second): void {
                $date = 'date("1970-01-01") + duration("P1D") * '.$days;
                self::assertSame(true, self::value("($date) + duration(\"P1D\") * $move - duration(\"P1D\") * $move = $date"));
                self::assertSame(true, self::value("(($date) + duration(\"P1D\") * $move) - ($date) = duration(\"P1D\") * $move"));
                $moment = "date and time($date, time(0, 0, 0)) + duration(\"PT1S\") * $second";
                self::assertSame(true, self::value("($moment) - duration(\"PT1S\") * $second = date and time($date, time(0, 0, 0))"));
                $zoned = "date and time($moment, \"Europe/Lisbon\")";
                self::assertSame(true, self::value("($zoned) + duration(\"PT1H\") - duration(\"PT1H\") - ($zoned) = duration(\"PT0S\")"));
                self::assertSame(true, self::value("date(string($date)) = $date"));
            });
    }

    public function test_a_test_in_a_range_is_the_comparison_it_stands_for(): void
    {
        $this->forAll(Generators::choose(-20, 20), Generators::choose(-20, 20), Generators::choose(-20, 20), Generators::bool(), Generators::bool())
            ->then(function (int $x, int $low, int $high, bool $start, bool $end): void {
                $range = ($start ? '[' : '(').$low.'..'.$high.($end ? ']' : ')');
                $stands = sprintf('%d %s %d and %d %s %d', $x, $start ? '>=' : '>', $low, $x, $end ? '<=' : '<', $high);
                self::assertSame(self::value($stands), self::value("$x in $range"));
                self::assertSame(self::value($stands), UnaryTests::parse($range)->hold($x, new MapScope, new Warnings));
                self::assertSame(self::value("$x > $low"), UnaryTests::parse("> $low")->hold($x, new MapScope, new Warnings));
                self::assertSame(self::value("not($x = $low)"), UnaryTests::parse("not($low)")->hold($x, new MapScope, new Warnings));
            });
    }

    private static function value(string $formula): mixed
    {
        return Formula::parse($formula)->value(new MapScope, new Warnings);
    }

    private static function decimal(int $unscaled, int $scale): string
    {
        return Number::text(Number::of(\Brick\Math\BigDecimal::ofUnscaledValue($unscaled, $scale)));
    }

    /** The tree without its positions. */
    private static function shape(Node $node): string
    {
        $properties = array_diff_key(get_object_vars($node), ['from' => 1, 'to' => 1]);

        return $node::class.'('.implode(', ', array_map(self::shown(...), $properties)).')';
    }

    private static function shown(mixed $value): string
    {
        return match (true) {
            $value instanceof Node => self::shape($value),
            is_array($value) => '['.implode(', ', array_map(fn (mixed $v, int|string $k): string => $k.'='.self::shown($v), $value, array_keys($value))).']',
            $value instanceof \Stringable => $value::class.':'.$value,
            default => (string) json_encode($value),
        };
    }
}
