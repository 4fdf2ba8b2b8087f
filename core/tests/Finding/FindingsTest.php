<?php

declare(strict_types=1);

namespace Sorvel\Core\Tests\Finding;

use PHPUnit\Framework\TestCase;
use Sorvel\Core\Finding\Finding;
use Sorvel\Core\Finding\Findings;
use Sorvel\Core\Format\SampleBuilder;
use Sorvel\Core\Tests\Desks;

/** What is said about a rulebook without running it. */
final class FindingsTest extends TestCase
{
    public function test_rows_that_are_never_reached_and_values_that_no_row_fits_come_with_an_example(): void
    {
        $found = $this->found([$this->rule('a', ['checks' => [['of' => 'level'], ['of' => 'points']], 'rows' => [
            ['if' => ['"low", "mid"', '-'], 'then' => ['1']],
            ['if' => ['"mid"', '> 4'], 'then' => ['2']],
            ['if' => ['"high"', '>= 10'], 'then' => ['3']],
        ]])]);

        self::assertContains('Row 2 of "A" is never reached: whatever fits it fits row 1 before.', $found);
        self::assertContains('No row of "A" fits when Level is High and Points is below 4 (and in 2 more cases).', $found);
    }

    public function test_a_grid_that_covers_everything_has_no_gap(): void
    {
        self::assertSame([], $this->found([$this->rule('a', ['checks' => [['of' => 'level'], ['of' => 'points']], 'rows' => [
            ['if' => ['"high"', '> 4.5'], 'then' => ['1']],
            ['if' => ['-', '<= 4.5'], 'then' => ['2']],
            ['if' => ['not("high")', '-'], 'then' => ['3']],
        ]])], 'gap'));
    }

    public function test_a_check_that_reads_more_than_its_value_is_not_judged(): void
    {
        self::assertSame([], $this->found([$this->rule('a', ['checks' => [['of' => 'points']], 'rows' => [
            ['if' => ['> other'], 'then' => ['1']],
            ['if' => ['<= other'], 'then' => ['2']],
        ]])], 'gap', 'row_never_reached'));
    }

    public function test_rows_of_a_unique_table_that_fit_at_once_block_and_gaps_are_told(): void
    {
        $table = ['key' => 't', 'title' => 'T', 'inputs' => [['key' => 'level', 'label' => 'Level', 'field' => 'job.level'], ['key' => 'points', 'label' => 'Points', 'field' => 'job.points']], 'outputs' => [['key' => 'out', 'label' => 'Out', 'type' => 'number']], 'hit' => 'unique', 'rows' => [
            ['if' => ['"low"', '[0..50]'], 'then' => ['1']],
            ['if' => ['"low"', '>= 50'], 'then' => ['2']],
            ['if' => ['"high"', '-'], 'then' => ['3']],
        ]];
        $all = Findings::of(Desks::tree([], [$table]), []);

        self::assertSame(['blocking', 'Rows 1 and 2 of "T" fit at once when Level is Low and Points is 50.'], [$all[0]->weight->value, $all[0]->says]);
        self::assertContains('No row of "T" fits when Level is Mid.', array_map(fn (Finding $f): string => $f->says, $all));
        $table['hit'] = 'first';
        $table['default'] = ['0'];
        self::assertSame([], array_filter(Findings::of(Desks::tree([], [$table]), []), fn (Finding $f): bool => $f->kind === 'tables'));
    }

    public function test_circles_are_told_with_the_fields_that_carry_them(): void
    {
        $found = $this->found([
            $this->rule('a', ['starts' => [['changed' => ['points']]], 'changes' => [['set' => 'other']]]),
            $this->rule('b', ['starts' => [['changed' => ['other']]], 'changes' => [['set' => 'points']]]),
            $this->rule('c', ['starts' => [['changed' => ['points']]], 'changes' => [['set' => 'share']]]),
        ], 'circle');

        self::assertSame(['Rules may go round in a circle: "B" changes Points of job, at which "A" starts and "A" changes Other of job, at which "B" starts.'], $found);
    }

    public function test_what_hangs_on_people_options_and_questions_that_are_gone_is_told(): void
    {
        $found = $this->found([$this->rule('a', [
            'owner' => 'gone', 'questions' => [['ask' => 'And at night?'], ['ask' => 'And by day?', 'answer' => 'Yes.']],
            'checks' => [['of' => 'level']], 'changes' => [['set' => 'assignee']], 'rows' => [['if' => ['"old"'], 'then' => ['"gone"']], ['if' => ['-'], 'then' => ['"ann"']]],
        ])]);

        foreach (['"A" has an unanswered question: And at night?', 'Gone, who owns "A", is no longer active.', 'The option "Old" of Level of job is retired and still named here.', 'Gone, named here, is no longer active.'] as $says) {
            self::assertContains($says, $found);
        }
        self::assertSame([], array_filter($found, fn (string $s): bool => str_contains($s, 'by day')));
    }

    public function test_what_is_not_safe_to_repeat_is_told_and_what_is_bounded_is_not(): void
    {
        $changed = [['changed' => ['level']]];
        $found = $this->found([
            $this->rule('grows', ['starts' => $changed, 'changes' => [['raise' => 'other']]]),
            $this->rule('bounded', ['starts' => $changed, 'changes' => [['raise' => 'points']]]),
            $this->rule('adds', ['starts' => $changed, 'changes' => [['set' => 'other']], 'rows' => [['if' => [], 'then' => ['other + 1']]]]),
            $this->rule('once', ['starts' => $changed, 'repeat' => 'once', 'changes' => [['raise' => 'other']]]),
        ], 'not_safe_to_repeat');

        self::assertSame(['Other of job grows each time "Grows" looks, and has no bound.', '"Adds" sets Other of job from what stands there already.'], $found);
    }

    public function test_several_writers_of_a_field_and_look_ups_of_a_whole_type_are_told(): void
    {
        $found = $this->found([
            $this->rule('a', ['changes' => [['set' => 'points']]]),
            $this->rule('b', ['changes' => [['set' => 'points']], 'look_ups' => [['name' => 'all_ships', 'all' => 'ship', 'where' => 'lower case(name) = "x"']], 'rows' => [['if' => [], 'then' => ['count(all_ships)']]]]),
            $this->rule('c', ['changes' => [['set' => 'other', 'when' => 'higher']]]),
            $this->rule('d', ['changes' => [['set' => 'other', 'when' => 'higher']]]),
        ]);

        self::assertContains('Points of job is set by 2 rules: "A" and "B".', $found);
        self::assertContains('The look-up "all_ships" of "B" reads every record of ship.', $found);
        self::assertSame([], array_filter($found, fn (string $s): bool => str_contains($s, 'Other of job is set')), 'keeping the higher goes together');
    }

    public function test_a_rule_without_a_sample_is_told_until_one_is_about_it(): void
    {
        $rule = $this->rule('a', ['only_if' => 'sure']);
        self::assertContains('No sample is about "A".', $this->found([$rule], 'no_sample'));
        $sample = SampleBuilder::build(['key' => 's', 'title' => 'S', 'proves' => 'act', 'rules' => ['a'], 'steps' => [['create' => 'job', 'as' => 'J1']]]);
        $says = array_map(fn (Finding $f): string => $f->says, Findings::of(Desks::tree([$rule]), [$sample]));
        self::assertNotContains('No sample is about "A".', $says);
        self::assertContains('No sample shows "A" staying still.', $says);
    }

    public function test_a_finding_keeps_its_name_while_it_stays_the_same(): void
    {
        $of = fn (string $title): string => Findings::of(Desks::tree([['title' => $title] + $this->rule('a', ['enabled' => false])]), [])[0]->id;
        self::assertSame($of('A'), $of('A'));
        self::assertNotSame($of('A'), $of('Another'));
    }

    /**
     * @param  array<string, mixed>  $with
     * @return array<string, mixed>
     */
    private function rule(string $key, array $with = []): array
    {
        return $with + ['key' => $key, 'title' => ucfirst($key), 'on' => 'job', 'starts' => ['created'], 'changes' => [['set' => 'points']], 'rows' => [['if' => [], 'then' => ['1']]]];
    }

    /**
     * @param  list<array<string, mixed>>  $rules
     * @return list<string> what is said, by the checks that are asked for, or by all
     */
    private function found(array $rules, string ...$checks): array
    {
        return array_values(array_map(fn (Finding $f): string => $f->says, array_filter(Findings::of(Desks::tree($rules), []), fn (Finding $f): bool => $checks === [] || in_array($f->check, $checks, true))));
    }
}
