<?php

declare(strict_types=1);

namespace Sorvel\Core\Tests\Replay;

use PHPUnit\Framework\TestCase;
use Sorvel\Core\Engine\TraceLevel;
use Sorvel\Core\Format\InvalidInput;
use Sorvel\Core\Format\SampleBuilder;
use Sorvel\Core\Replay\Coverage;
use Sorvel\Core\Replay\Difference;
use Sorvel\Core\Replay\SampleResult;
use Sorvel\Core\Replay\SampleRunner;
use Sorvel\Core\Replay\Verdict;
use Sorvel\Core\Tests\Desks;

final class SampleRunnerTest extends TestCase
{
    public function test_a_sample_agrees_when_all_comes_out_as_expected(): void
    {
        $result = $this->run1([
            ['create' => 'job', 'as' => 'J1', 'by' => 'ann', 'with' => ['points' => 20], 'expect' => ['J1' => ['level' => 'high', 'points' => 20, 'assignee' => null, 'other' => ['test' => '> 39']], 'acted' => ['rank'], 'still' => ['quiet']]],
            ['clock' => '2027-02-01T10:00:00'],
            ['change' => 'J1', 'with' => ['state' => 'done'], 'expect' => ['refused' => 'no move', 'J1' => ['state' => 'new']]],
        ]);

        self::assertSame(Verdict::Agrees, $result->verdict);
        self::assertCount(3, $result->steps);
    }

    public function test_each_expectation_can_differ(): void
    {
        $differences = fn (array $expect): array => array_map(fn (Difference $d): array => [$d->record, $d->field, $d->expected, $d->actual], $this->run1([['create' => 'job', 'as' => 'J1', 'with' => ['points' => 20, 'tags' => ['a', 'b']], 'expect' => $expect]])->steps[0]->differences);

        self::assertSame([], $differences(['J1' => ['tags' => ['b', 'a']]]));
        self::assertSame([['J1', 'level', 'low', 'high']], $differences(['J1' => ['level' => 'low']]));
        self::assertSame([['J1', 'other', ['test' => '< 3'], 40]], $differences(['J1' => ['other' => ['test' => '< 3']]]));
        self::assertSame([[null, 'acted', 'quiet', 'looked']], $differences(['acted' => ['quiet']]));
        self::assertSame([[null, 'still', 'rank', 'acted']], $differences(['still' => ['rank']]));
        self::assertSame([[null, 'problems', ['rank'], []]], $differences(['problems' => ['rank']]));
        self::assertSame([[null, 'refused', true, false]], $differences(['refused' => true]));
    }

    public function test_an_unexpected_problem_or_refusal_makes_it_differ(): void
    {
        self::assertSame('problems', $this->run1([['create' => 'job', 'as' => 'J1', 'with' => ['points' => 20, 'title' => 'break']]])->steps[0]->differences[0]->field);
        self::assertSame(Verdict::Agrees, $this->run1([['create' => 'job', 'as' => 'J1', 'with' => ['points' => 20, 'title' => 'break'], 'expect' => ['problems' => ['rank']]]])->verdict);
        self::assertSame('refused', $this->run1([['create' => 'job', 'as' => 'J1', 'with' => ['points' => -1]]])->steps[0]->differences[0]->field);
    }

    public function test_one_story_is_told_in_several_lines(): void
    {
        $tree = [
            'key' => 's', 'title' => 'S', 'proves' => 'act', 'given' => ['ship' => [['id' => 'S1', 'name' => 'Alder']]],
            'steps' => [['create' => 'job', 'as' => 'J1', 'with' => ['title' => 'a', 'ship' => 'S1'], 'expect' => ['J1' => ['title' => 'a']]]],
            'variants' => ['inputs' => ['points', 'S1.chief'], 'outcomes' => ['J1.level', 'J1.points'], 'lines' => [
                ['in' => [20, 'ann'], 'out' => ['high', 20]],
                ['in' => [null, null], 'out' => [null, null]],
                ['in' => [20, 'bo'], 'out' => ['low', 20]],
            ]],
        ];
        $run = fn (array $tree): SampleResult => (new SampleRunner(Desks::rulebook($this->rules())))->run(SampleBuilder::build($tree), TraceLevel::Full);
        $result = $run($tree);

        self::assertSame(Verdict::Differs, $result->verdict);
        self::assertSame(['agrees', 'agrees', 'differs'], array_map(fn (SampleResult $l): string => $l->verdict->value, $result->lines));
        self::assertSame(['line 3, step 1, J1 level: expected "low", came out "high"'], $result->told());
        self::assertSame('created', $result->steps[0]->outcome?->trace['event']['kind'] ?? null, 'the line that differs is the one traced');
        self::assertSame(['verdict' => 'differs', 'differences' => [['record' => 'J1', 'field' => 'level', 'expected' => 'low', 'actual' => 'high']]], $result->toArray()['lines'][2]);
        $tree['variants']['lines'][2]['out'][0] = 'high';
        self::assertSame(Verdict::Agrees, $run($tree)->verdict);
        $tree['variants']['lines'][1]['in'][1] = 'nobody';
        self::assertSame(Verdict::Broken, $run($tree)->verdict);

        foreach ([
            [['inputs' => ['points', 'S9.chief']] + $tree['variants'], 'There is no given record "S9".'],
            [['inputs' => ['points']] + $tree['variants'], '2 values for 1 inputs.'],
            [['inputs' => ['points', 'points']] + $tree['variants'], 'A column stands there twice.'],
        ] as [$variants, $says]) {
            try {
                SampleBuilder::build(['variants' => $variants] + $tree);
                self::fail('It was taken.');
            } catch (InvalidInput $invalid) {
                self::assertStringContainsString($says, $invalid->getMessage());
            }
        }
    }

    public function test_a_refused_step_changes_nothing(): void
    {
        $result = $this->run1([
            ['create' => 'job', 'as' => 'J1', 'with' => ['title' => 'a']],
            ['change' => 'J1', 'with' => ['title' => 'b', 'points' => 1000], 'expect' => ['refused' => true, 'J1' => ['title' => 'a']]],
        ]);

        self::assertSame(Verdict::Agrees, $result->verdict);
    }

    public function test_a_repeated_creation_holds_its_expectations_for_each(): void
    {
        $coverage = new Coverage;
        $result = $this->run1([['create' => 'job', 'as' => 'J1', 'repeat' => 25, 'with' => ['points' => 20], 'expect' => ['J1' => ['level' => 'high']]]], [], $coverage);

        self::assertSame(Verdict::Agrees, $result->verdict);
        self::assertSame(25, $coverage->toArray(Desks::rulebook($this->rules()))['rules'][0]['acted']);
    }

    public function test_what_is_not_there_breaks_a_sample(): void
    {
        self::assertStringContainsString('no record type "jab"; did you mean "job"', $this->why([['create' => 'jab', 'as' => 'J1']]));
        self::assertStringContainsString('no person "amn"', $this->why([['create' => 'job', 'as' => 'J1', 'by' => 'amn']]));
        self::assertStringContainsString('no field of Job "pionts"; did you mean "points"', $this->why([['create' => 'job', 'as' => 'J1', 'with' => ['pionts' => 1]]]));
        self::assertStringContainsString('no record in this sample "J2"', $this->why([['change' => 'J2']]));
        self::assertStringContainsString('no rule "rnak"; did you mean "rank"', $this->why([['create' => 'job', 'as' => 'J1', 'expect' => ['acted' => ['rnak']]]]));
        self::assertStringContainsString('no Ship "S9"', $this->why([['change' => 'J1']], ['job' => [['id' => 'J1', 'ship' => 'S9']]]));
        self::assertStringContainsString('already a record "J1"', $this->why([['create' => 'job', 'as' => 'J1'], ['create' => 'job', 'as' => 'J1']]));
    }

    /**
     * @param  list<array<string, mixed>>  $steps
     * @param  array<string, list<array<string, mixed>>>  $given
     */
    private function why(array $steps, array $given = []): string
    {
        return implode(' ', $this->run1($steps, $given)->broken);
    }

    public function test_two_replays_give_the_same_bytes(): void
    {
        $steps = [['create' => 'job', 'with' => ['points' => 20]], ['create' => 'job', 'as' => 'J9', 'with' => ['points' => 3]]];
        $bytes = fn (): string => serialize($this->run1($steps));

        self::assertSame($bytes(), $bytes());
    }

    public function test_a_check_cell_is_seen_holding_and_failing(): void
    {
        $coverage = new Coverage;
        $this->run1([['create' => 'job', 'with' => ['points' => 20]], ['create' => 'job', 'with' => ['points' => 3]]], [], $coverage);

        self::assertSame([0 => [0 => 3]], $coverage->cells('rank'));
    }

    /**
     * @param  list<array<string, mixed>>  $steps
     * @param  array<string, list<array<string, mixed>>>  $given
     */
    private function run1(array $steps, array $given = [], ?Coverage $coverage = null): SampleResult
    {
        $sample = SampleBuilder::build(['key' => 's', 'title' => 'S', 'proves' => 'act', 'given' => $given, 'steps' => $steps]);

        return (new SampleRunner(Desks::rulebook($this->rules()), $coverage))->run($sample, TraceLevel::Full);
    }

    /** @return list<array<string, mixed>> */
    private function rules(): array
    {
        return [
            Desks::rule('rank', ['created'], [['set' => 'level'], ['set' => 'other']], [], ['checks' => [['of' => 'points']], 'rows' => [['if' => ['> 10'], 'then' => ['if title = "break" then "nonsense" + title else "high"', 'points * 2']]]]),
            Desks::rule('quiet', ['created'], [['set' => 'sure']], ['true'], ['only_if' => 'points > 50']),
        ];
    }
}
