<?php

declare(strict_types=1);

namespace Sorvel\Core\Tests\Feel;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Sorvel\Core\Feel\FeelError;
use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Feel\Fuzz;
use Sorvel\Core\Feel\MapScope;
use Sorvel\Core\Feel\Printer;
use Sorvel\Core\Feel\TextParts;
use Sorvel\Core\Feel\Warnings;

final class TextPartsTest extends TestCase
{
    /** @return iterable<string, array{string, list<array<string, mixed>>}> */
    public static function texts(): iterable
    {
        $value = fn (string $of, bool $string = false, string $empty = 'all', string $before = '', string $after = ''): array => ['of' => $of, 'string' => $string, 'empty' => $empty, 'before' => $before, 'after' => $after];
        yield 'a text' => ['"Door"', [['text' => 'Door']]];
        yield 'a field' => ['title', [$value('title')]];
        yield 'texts and fields' => ['"Answer by " + day of week(by) + ", " + string(by) + "."', [['text' => 'Answer by '], $value('day of week(by)'), ['text' => ', '], $value('by', true), ['text' => '.']]];
        yield 'what is left out with its separator' => ['title + (if place = null then "" else ", at " + place + "!")', [$value('title'), $value('place', false, 'nothing', ', at ', '!')]];
        yield 'left out without any' => ['(if hours = null then "" else string(hours)) + "h"', [$value('hours', true, 'nothing'), ['text' => 'h']]];
    }

    /** @param  list<array<string, mixed>>  $parts */
    #[DataProvider('texts')]
    public function test_a_text_is_read_as_parts_and_written_again(string $source, array $parts): void
    {
        self::assertSame($parts, TextParts::read($source));
        self::assertSame((new Printer)->print(Formula::parse($source)->tree), TextParts::write($parts));
    }

    public function test_an_empty_part_leaves_no_separator_behind(): void
    {
        $formula = TextParts::write([['of' => 'title'], ['of' => 'place', 'empty' => 'nothing', 'before' => ' (', 'after' => ')'], ['of' => 'hours', 'string' => true, 'empty' => 'nothing', 'before' => ', ', 'after' => ' h']]);
        $say = fn (array $values): mixed => Formula::parse($formula)->value(new MapScope($values), new Warnings);
        self::assertSame('Door (bow), 6 h', $say(['title' => 'Door', 'place' => 'bow', 'hours' => 6]));
        self::assertSame('Door, 6 h', $say(['title' => 'Door', 'place' => null, 'hours' => 6]));
        self::assertSame('Door', $say(['title' => 'Door', 'place' => null, 'hours' => null]));
        self::assertNull($say(['title' => null, 'place' => 'bow', 'hours' => 6]), 'a part that is not left out empties the whole');
    }

    public function test_two_values_side_by_side_are_joined_as_texts(): void
    {
        self::assertSame('"" + a + b', TextParts::write([['of' => 'a'], ['of' => 'b']]));
        self::assertSame('null', TextParts::write([]));
    }

    public function test_what_is_no_text_stays_a_formula(): void
    {
        foreach (['1 + 2', 'if a = null then "x" else a', 'a * 2 + "x"', 'a = b', '"a" + b // c', 'if a = null then "" else b', 'title + (if vessel = null then "" else " on " + vessel.name)'] as $source) {
            self::assertNull(TextParts::read($source), $source);
        }
    }

    public function test_reading_and_writing_keeps_the_tree_of_any_text(): void
    {
        $fuzz = new Fuzz(Fuzz::corpus(__DIR__.'/fixtures'), 29);
        $tried = 0;
        for ($i = 0; $i < 8_000; $i++) {
            $source = '"a" + ('.$fuzz->next().') + "b"';
            try {
                $tree = Formula::parse($source)->tree;
            } catch (FeelError) {
                continue;
            }
            $parts = TextParts::read($source);
            if ($parts !== null) {
                self::assertSame((new Printer)->print($tree), TextParts::write($parts), $source);
                $tried++;
            }
        }
        self::assertGreaterThan(300, $tried);
    }
}
