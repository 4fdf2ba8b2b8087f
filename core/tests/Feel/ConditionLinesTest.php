<?php

declare(strict_types=1);

namespace Sorvel\Core\Tests\Feel;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Sorvel\Core\Feel\ConditionLines;
use Sorvel\Core\Feel\FeelError;
use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Feel\Fuzz;
use Sorvel\Core\Feel\Printer;

final class ConditionLinesTest extends TestCase
{
    /** @return iterable<string, array{string, list<string>}> */
    public static function conditions(): iterable
    {
        yield 'a comparison' => ['state != "closed"', ['all', 'state is_not "closed"']];
        yield 'empty and filled' => ['a = null and b.c != null', ['all', 'a empty', 'b.c filled']];
        yield 'numbers' => ['a > 4 or b <= 2 or c >= -1', ['any', 'a above 4', 'b at_most 2', 'c at_least -1']];
        yield 'options' => ['a in ("x", "y")', ['all', 'a one_of "x" "y"']];
        yield 'options denied' => ['not(a in ("x", "y"))', ['all', 'a none_of "x" "y"']];
        yield 'yes and no' => ['a.b and not(c)', ['all', 'a.b yes', 'c no']];
        yield 'between' => ['a between 1 and b + 2', ['all', 'a between 1 b + 2']];
        yield 'lists and texts' => ['list contains(tags, "x") and not(list contains(tags, "y")) and contains(title, "door") and starts with(code, "T-")', ['all', 'tags has "x"', 'tags has_not "y"', 'title contains "door"', 'code starts_with "T-"']];
        yield 'a change' => ['changed("impact") or changed("state")', ['any', 'impact changed', 'state changed']];
        yield 'open states' => ['open(state) and not(open(was.state))', ['all', 'state open', 'was.state not_open']];
        yield 'none' => ['not(a = 1 or b = 2)', ['none', 'a is 1', 'b is 2']];
        yield 'groups in groups' => ['a = 1 and (b = 2 or not(c = 3 or d)) and e', ['all', 'a is 1', 'any', 'b is 2', 'none', 'c is 3', 'd yes', 'e yes']];
        yield 'a part that is no line' => ['a = 1 and (if b then c else d)', ['all', 'a is 1', 'formula if b then c else d']];
        yield 'a formula on the left' => ['count(a[b = 1]) > 2 and x = y', ['all', 'count(a[b = 1]) above 2', 'x is y']];
    }

    /** @param  list<string>  $lines */
    #[DataProvider('conditions')]
    public function test_a_condition_is_read_as_lines_and_written_again(string $source, array $lines): void
    {
        $read = ConditionLines::read($source);
        self::assertNotNull($read);
        self::assertSame($lines, self::flat($read));
        self::assertSame((new Printer)->print(Formula::parse($source)->tree), ConditionLines::write($read));
    }

    public function test_what_lines_cannot_show_stays_a_formula(): void
    {
        foreach (['if a then b else c', 'true', 'some x in y satisfies x', 'a + b', 'a = 1 // as the duty manager asked', 'a in [1, 2]'] as $source) {
            self::assertNull(ConditionLines::read($source), $source);
        }
        self::assertNotNull(ConditionLines::read('a = "http://x"'));
    }

    public function test_reading_and_writing_keeps_the_tree_of_any_condition(): void
    {
        $fuzz = new Fuzz(Fuzz::corpus(__DIR__.'/fixtures'), 23);
        $tried = 0;
        for ($i = 0; $i < 12_000; $i++) {
            $source = $fuzz->next();
            $source = $i % 2 === 0 ? $source : "($source) and not(a or b.c > 1) or x in (\"y\")";
            try {
                $tree = Formula::parse($source)->tree;
            } catch (FeelError) {
                continue;
            }
            $read = ConditionLines::read($source);
            if ($read !== null) {
                self::assertSame((new Printer)->print($tree), ConditionLines::write($read), $source);
                $tried++;
            }
        }
        self::assertGreaterThan(500, $tried);
    }

    public function test_wrong_lines_are_told(): void
    {
        $says = function (array $part): string {
            try {
                return ConditionLines::write($part);
            } catch (FeelError|\InvalidArgumentException $error) {
                return $error->getMessage();
            }
        };
        self::assertStringContainsString('“4 +”', $says(['of' => 'a', 'test' => 'is', 'values' => ['4 +']]));
        self::assertStringContainsString('needs a value', $says(['of' => 'a', 'test' => 'is', 'values' => []]));
        self::assertStringContainsString('needs two values', $says(['of' => 'a', 'test' => 'between', 'values' => ['1']]));
        self::assertStringContainsString('no test', $says(['of' => 'a', 'test' => 'like', 'values' => ['1']]));
        self::assertStringContainsString('all, any and none', $says(['join' => 'most', 'parts' => [['of' => 'a', 'test' => 'yes']]]));
        self::assertStringContainsString('needs a line', $says(['join' => 'all', 'parts' => []]));
        self::assertSame('(a or b) = 1', $says(['of' => 'a or b', 'test' => 'is', 'values' => ['1']]), 'a formula inside a line keeps its own bounds');
    }

    /**
     * @param  array<string, mixed>  $part
     * @return list<string>
     */
    private static function flat(array $part): array
    {
        if (isset($part['join'])) {
            return [$part['join'], ...array_merge(...array_map(self::flat(...), $part['parts']))];
        }

        return [isset($part['formula']) ? 'formula '.$part['formula'] : implode(' ', [$part['of'], $part['test'], ...$part['values']])];
    }
}
