<?php

declare(strict_types=1);

namespace Sorvel\Core\Tests\Proposal;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Sorvel\Core\Engine\TraceLevel;
use Sorvel\Core\Finding\Book;
use Sorvel\Core\Format\RulebookReader;
use Sorvel\Core\Format\SampleBuilder;
use Sorvel\Core\Format\SchemaCheck;
use Sorvel\Core\Mutation\Mutation;
use Sorvel\Core\Mutation\Mutations;
use Sorvel\Core\Mutation\Notice;
use Sorvel\Core\Proposal\Pattern;
use Sorvel\Core\Proposal\Proposed;
use Sorvel\Core\Proposal\Proposer;
use Sorvel\Core\Proposal\Tried;
use Sorvel\Core\Replay\Report;
use Sorvel\Core\Replay\Sample;
use Sorvel\Core\Replay\SampleRunner;
use Sorvel\Core\Replay\Verdict;
use Sorvel\Core\Tests\Desks;

/** Samples that nobody has written yet, and what the written ones do not notice. */
final class ProposerTest extends TestCase
{
    public function test_from_no_sample_at_all_everything_on_the_demo_desk_is_covered(): void
    {
        $tree = RulebookReader::tree((string) file_get_contents(__DIR__.'/../../../demo/rulebook.yaml'), 'rulebook.yaml');
        $book = Book::of($tree, []);
        $proposed = (new Proposer($book, []))->all();
        $report = Report::of($book->rulebook, $this->samples($proposed));

        self::assertSame(count($proposed), $report->count(Verdict::Agrees), 'what was accepted comes out so again');
        foreach ($report->coverage->figures($book->rulebook) as $what => $figure) {
            self::assertSame($figure['total'], $figure['covered'], $what.': '.json_encode($report->coverage->missing($book->rulebook)));
        }
        foreach ($proposed as $one) {
            self::assertSame([], SchemaCheck::errors('samples', $one->tree, 'sample'), (string) json_encode($one->tree));
        }
    }

    public function test_a_bound_is_proposed_from_both_sides_and_nothing_twice(): void
    {
        $book = $this->book(['checks' => [['of' => 'level'], ['of' => 'points']], 'rows' => [['if' => ['"high"', '> 4.5'], 'then' => ['1']], ['if' => ['-', '-'], 'then' => ['2']]]]);
        $proposer = new Proposer($book, []);
        $proposed = $proposer->about($book->rulebook->rules['a']);

        self::assertGreaterThanOrEqual(3, count($proposed));
        self::assertSame([], (new Proposer($book, $this->samples($proposed)))->all(), 'what is there already is not proposed again');
        self::assertSame(array_map(fn (Proposed $p): array => $p->tree, $proposed), array_map(fn (Proposed $p): array => $p->tree, (new Proposer($book, []))->all()), 'the same each time');
    }

    public function test_each_value_left_empty_each_bound_from_both_sides_and_look_ups_that_find_none_one_and_several_are_proposed(): void
    {
        $book = $this->book(['look_ups' => [['name' => 'alike', 'count' => 'job', 'where' => 'level = record.level and id != record.id']], 'checks' => [['of' => 'points'], ['of' => 'alike']], 'rows' => [['if' => ['[10..20)', '-'], 'then' => ['1']], ['if' => ['-', '> 1'], 'then' => ['2']]]]);
        $proposed = (new Proposer($book, []))->all();
        $met = [];
        foreach ($this->samples($proposed) as $sample) {
            foreach ((new SampleRunner($book->rulebook))->run($sample, TraceLevel::Full)->steps as $step) {
                foreach ($step->outcomes as $outcome) {
                    array_push($met, ...Tried::marks($outcome->trace, $book->rulebook));
                }
            }
        }

        foreach ([9.9, 10, 19.9, 20, null] as $points) {
            self::assertContains(Tried::value('a', 'f.points', $points), $met);
        }
        self::assertContains(Tried::value('a', 'f.level', null), $met);
        foreach ([0, 1, 2] as $count) {
            self::assertContains(Tried::found('a', 'alike', $count), $met);
        }
        $covers = array_merge(...array_map(fn (Proposed $p): array => $p->covers, $proposed));
        self::assertContains('Points is 20, at a bound', $covers);
        self::assertSame(array_unique($covers), $covers, 'nothing twice');
    }

    public function test_what_the_samples_do_not_notice_is_listed_and_proposed_until_they_do(): void
    {
        $book = $this->book(['checks' => [['of' => 'points']], 'rows' => [['if' => ['> 10'], 'then' => ['1']], ['if' => ['-'], 'then' => ['2']]]]);
        $weak = SampleBuilder::build(['key' => 'weak', 'title' => 'Weak', 'proves' => 'act', 'rules' => ['a'], 'steps' => [['create' => 'job', 'as' => 'J1', 'with' => ['points' => 50], 'expect' => ['J1' => ['other' => 1]]]]]);
        $unnoticed = $this->unnoticed($book, [$weak]);
        self::assertContains('row 1: > became >= in > 10', $unnoticed);
        self::assertContains('row 1: the cell > 10 holds for anything', $unnoticed);
        self::assertNotContains('row 1 is gone', $unnoticed);
        self::assertNotContains('the rule is off', $unnoticed);

        $samples = [$weak];
        $proposer = new Proposer($book, $samples);
        foreach (Mutations::of($book) as $mutation) {
            if ((new Notice($book, $samples))->by($mutation) === null) {
                $proposed = $proposer->noticing($mutation);
                self::assertNotNull($proposed, $mutation->says);
                $samples[] = SampleBuilder::build($proposed->tree);
                self::assertSame($proposed->tree['key'], (new Notice($book, $samples))->by($mutation));
            }
        }
        self::assertSame([], $this->unnoticed($book, $samples));
    }

    public function test_changes_that_change_nothing_are_not_tried(): void
    {
        $says = array_map(fn (Mutation $m): string => $m->says, [...Mutations::of($this->book(['checks' => [['of' => 'level']], 'rows' => [['if' => ['"low"'], 'then' => ['1']], ['if' => ['"high"'], 'then' => ['2']]]]))]);

        self::assertNotContains('rows 1 and 2 have changed places', $says, 'no value meets both');
        self::assertContains('row 1: the cell "low" holds for anything', $says);
        self::assertContains('the rule is off', $says);
        self::assertContains('row 2 does not change "set other" any more', $says);
    }

    /** @return list<array{string, string|null}> */
    public static function patterns(): array
    {
        return [['[A-Z]{2,4}-[0-9]+', 'AA-1'], ['[0-9]{4}', '1111'], ['[^@ ]+@[^@ ]+', '1@1'], ['(GB|FR)\d?', 'GB1'], ['ab?c', 'abc'], ['(?=x)y', null], ['[', null]];
    }

    #[DataProvider('patterns')]
    public function test_a_text_of_a_form_is_found(string $pattern, ?string $expected): void
    {
        self::assertSame($expected, Pattern::example($pattern));
    }

    /** @param  array<string, mixed>  $rule */
    private function book(array $rule): Book
    {
        return Book::of(Desks::tree([$rule + ['key' => 'a', 'title' => 'A', 'on' => 'job', 'starts' => ['created'], 'changes' => [['set' => 'other']]]]), []);
    }

    /**
     * @param  list<Proposed>  $proposed
     * @return list<Sample>
     */
    private function samples(array $proposed): array
    {
        return array_map(fn (Proposed $p): Sample => SampleBuilder::build($p->tree), $proposed);
    }

    /**
     * @param  list<Sample>  $samples
     * @return list<string>
     */
    private function unnoticed(Book $book, array $samples): array
    {
        $notice = new Notice($book, $samples);
        $found = [];
        foreach (Mutations::of($book) as $mutation) {
            $notice->by($mutation) === null && $found[] = $mutation->says;
        }

        return $found;
    }
}
