<?php

declare(strict_types=1);

namespace Sorvel\Core\Tests\Table;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Sorvel\Core\Feel\Values;
use Sorvel\Core\Feel\Warnings;
use Sorvel\Core\Format\InvalidInput;
use Sorvel\Core\Tests\Desks;

final class HitPolicyTest extends TestCase
{
    /** @return iterable<string, array{string, int, mixed, string}> */
    public static function policies(): iterable
    {
        // rows: > 10 → 5, > 20 → 9, > 30 → 5, = 1 → 2
        yield 'unique with one' => ['unique', 15, 5, ''];
        yield 'unique with two' => ['unique', 25, null, 'Rows 1, 2'];
        yield 'unique with none' => ['unique', 5, null, ''];
        yield 'first' => ['first', 35, 5, ''];
        yield 'any that differ' => ['any', 25, null, 'different things'];
        yield 'priority' => ['priority', 35, 9, ''];
        yield 'output order' => ['output order', 35, [9, 5, 5], ''];
        yield 'rule order' => ['rule order', 35, [5, 9, 5], ''];
        yield 'collect' => ['collect', 25, [5, 9], ''];
        yield 'collect sum' => ['collect sum', 35, 19, ''];
        yield 'collect min' => ['collect min', 35, 5, ''];
        yield 'collect max' => ['collect max', 35, 9, ''];
        yield 'collect count' => ['collect count', 35, 3, ''];
        yield 'collect sum of none' => ['collect sum', 5, null, ''];
    }

    #[DataProvider('policies')]
    public function test_what_hit_rows_become(string $policy, int $value, mixed $expected, string $warning): void
    {
        $warnings = new Warnings;
        $result = Desks::rulebook([], [$this->table($policy)])->tables['t']->decide([$value], $warnings);

        self::assertSame($expected, Values::json($result->value));
        $warning === '' ? self::assertSame([], $warnings->all()) : self::assertStringContainsString($warning, $warnings->all()[0]['message'] ?? '');
    }

    public function test_any_agrees_when_all_rows_say_the_same(): void
    {
        $table = ['hit' => 'any', 'rows' => [['if' => ['> 1'], 'then' => ['7']], ['if' => ['> 2'], 'then' => ['7']]]] + $this->table('any');

        self::assertSame(7, Desks::rulebook([], [$table])->tables['t']->decide([3], new Warnings)->value);
    }

    public function test_the_default_stands_when_no_row_fits(): void
    {
        self::assertSame(0, Desks::rulebook([], [['default' => ['0']] + $this->table('unique')])->tables['t']->decide([5], new Warnings)->value);
    }

    public function test_several_outputs_give_a_context(): void
    {
        $table = ['outputs' => [['key' => 'a'], ['key' => 'b']], 'rows' => [['if' => ['-'], 'then' => ['1', 'x + 1']]]] + $this->table('first');
        $outcome = Desks::create([Desks::rule('r', ['created'], [['set' => 'points'], ['set' => 'other']], ['t(5).a', 't(x: 5).b'])], [], [$table]);

        self::assertSame([1, 6], [$outcome->record->value('points'), $outcome->record->value('other')]);
        self::assertSame(['t' => [0 => 2]], $outcome->tableRows);
    }

    public function test_priority_needs_an_order(): void
    {
        $this->expectException(InvalidInput::class);
        $this->expectExceptionMessage('needs "values"');
        Desks::rulebook([], [['outputs' => [['key' => 'y']]] + $this->table('priority')]);
    }

    /** @return array<string, mixed> */
    private function table(string $policy): array
    {
        return [
            'key' => 't', 'title' => 'T', 'hit' => $policy,
            'inputs' => [['key' => 'x']], 'outputs' => [['key' => 'y', 'type' => 'number', 'values' => [9, 5, 2]]],
            'rows' => [['if' => ['> 10'], 'then' => ['5']], ['if' => ['> 20'], 'then' => ['9']], ['if' => ['> 30'], 'then' => ['5']], ['if' => ['1'], 'then' => ['2']]],
        ];
    }
}
