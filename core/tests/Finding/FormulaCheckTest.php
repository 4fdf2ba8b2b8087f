<?php

declare(strict_types=1);

namespace Sorvel\Core\Tests\Finding;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Sorvel\Core\Feel\FeelError;
use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Feel\UnaryTests;
use Sorvel\Core\Finding\FormulaCheck;
use Sorvel\Core\Finding\Names;
use Sorvel\Core\Tests\Desks;

/** What is found of a formula before it runs. */
final class FormulaCheckTest extends TestCase
{
    /** @return iterable<string, array{string, string|null}> */
    public static function conditions(): iterable
    {
        yield 'within bounds' => ['points > 10 and share <= 50', null];
        yield 'below the least' => ['points < 0', 'never below 0, so this test is never met'];
        yield 'above the greatest' => ['100 < points', 'never above 100, so this test is never met'];
        yield 'over a percent' => ['share > 100', 'never above 100'];
        yield 'the greatest itself' => ['share = 100', null];
        yield 'always at least' => ['points >= 0', 'always met when the field is filled'];
        yield 'two things at once' => ['level = "low" and sure and level = "high"', 'two things at once'];
        yield 'other than one of two' => ['level != "low" or level != "high"', 'always met'];
        yield 'one of two' => ['level = "low" or level = "high"', null];
        yield 'ends the wrong way round' => ['points between 9 and 3', 'never met'];
        yield 'between a text' => ['points between "a" and 3', 'compared with a text'];
        yield 'a table compared with a text' => ['worth(level) = "much"', 'compared with a text'];
        yield 'a table compared with a number' => ['worth(level) > 4', null];
        yield 'an unknown option given to a table' => ['worth("hihg") > 4', 'did you mean "high"'];
        yield 'a number given to a table of options' => ['worth(points) > 4', 'is asked for here, not a number'];
        yield 'a part of a table' => ['both(level).ownr = "ann"', 'did you mean "owner"'];
        yield 'a person of a table' => ['both(level).owner = "anna"', 'did you mean "ann"'];
        yield 'a built-in compared with a text' => ['count(tags) = "2"', 'compared with a text'];
        yield 'a date compared with a text' => ['today() > "2027-03-04"', 'compared with a text'];
        yield 'a date compared with a date' => ['today() > date("2027-03-04")', null];
        yield 'a field that did not change' => ['changed("pionts")', 'did you mean "points"'];
        yield 'a built-in that is no condition' => ['lower case(title)', 'must be a yes/no'];
        yield 'a filter over tags' => ['count(tags[contains(item, "x")]) > 0', null];
        yield 'what is in a list' => ['some t in tags satisfies t > 4', 'compared with a number'];
        yield 'a quantifier over options' => ['every l in [level] satisfies l = "loww"', 'did you mean "low"'];
    }

    #[DataProvider('conditions')]
    public function test_conditions(string $formula, ?string $says): void
    {
        self::found(FormulaCheck::condition(Formula::parse($formula), self::names())->errors, $says);
    }

    /** @return iterable<string, array{string, string, string|null}> */
    public static function unaryTests(): iterable
    {
        yield 'a range' => ['points', '[2..5)', null];
        yield 'an empty range' => ['points', '[5..2]', 'never met'];
        yield 'a range without inside' => ['points', '(5..5)', 'never met'];
        yield 'a range of one' => ['points', '[5..5]', null];
        yield 'over the greatest' => ['points', '> 100', 'never above 100'];
        yield 'a value over the greatest' => ['share', '101', 'never above 100'];
        yield 'a range of texts' => ['points', '["a".."b"]', 'compared with a text'];
        yield 'a test that looks at nothing' => ['points', '1 < 2', 'always yes'];
        yield 'a test that looks at the value' => ['points', '? > 2 and ? < 9', null];
        yield 'a test that looks at another field' => ['points', 'sure and ? < 9', null];
        yield 'an unknown option' => ['level', 'not("hihg")', 'did you mean "high"'];
    }

    #[DataProvider('unaryTests')]
    public function test_unary_tests(string $field, string $tests, ?string $says): void
    {
        $names = self::names();
        self::found(FormulaCheck::tests(UnaryTests::parse($tests), $names->names[$field], $names)->errors, $says);
    }

    public function test_types_of_formulas(): void
    {
        $of = fn (string $formula): string => FormulaCheck::formula(Formula::parse($formula), self::names())->type->what;
        self::assertSame(['number', 'text', 'person', 'record', 'list', 'date', 'context', 'yes_no', 'number'], array_map($of, ['points * 2', 'title + string(points)', 'ship.chief', 'ship', 'tags[contains(item, "x")]', 'today()', 'both(level)', 'open(state)', 'worth(level) + 1']));
    }

    private static function names(): Names
    {
        $book = Desks::rulebook([], [
            ['key' => 'worth', 'title' => 'Worth', 'inputs' => [['key' => 'level', 'field' => 'job.level']], 'outputs' => [['key' => 'points', 'type' => 'number']], 'rows' => [['if' => ['-'], 'then' => ['1']]]],
            ['key' => 'both', 'title' => 'Both', 'inputs' => [['key' => 'level', 'field' => 'job.level']], 'outputs' => [['key' => 'owner', 'field' => 'job.assignee'], ['key' => 'points', 'type' => 'number']], 'rows' => [['if' => ['-'], 'then' => ['"ann"', '1']]]],
        ]);

        return Names::ofRecord($book->types['job'], $book->types, $book->people, $book->teams, $book->tables);
    }

    /** @param  list<FeelError>  $errors */
    private static function found(array $errors, ?string $says): void
    {
        $messages = array_map(fn (FeelError $e): string => $e->getMessage(), $errors);
        $says === null ? self::assertSame([], $messages) : self::assertStringContainsString($says, implode("\n", $messages));
    }
}
