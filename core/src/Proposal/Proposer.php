<?php

declare(strict_types=1);

namespace Sorvel\Core\Proposal;

use Random\Engine\Mt19937;
use Random\Randomizer;
use Sorvel\Core\Engine\TraceLevel;
use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Feel\Walk;
use Sorvel\Core\Finding\Book;
use Sorvel\Core\Format\InvalidInput;
use Sorvel\Core\Format\SampleBuilder;
use Sorvel\Core\Guard\Guard;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Mutation\Mutation;
use Sorvel\Core\Replay\Coverage;
use Sorvel\Core\Replay\Sample;
use Sorvel\Core\Replay\SampleResult;
use Sorvel\Core\Replay\SampleRunner;
use Sorvel\Core\Replay\Verdict;
use Sorvel\Core\Rule\Rule;

/**
 * Works out the stories that are missing. It tells stories about a rule, replays each, and keeps those that touch a
 * row, a side of a check cell or a table row that nothing touched before, with as little in them as that takes. The
 * same rulebook and samples give the same proposals.
 */
final class Proposer
{
    /** Stories told about one rule before it is left. */
    private const BUDGET = 400;

    /** Stories in which one thing is turned, before it is left. */
    private const BASES = 4;

    /** @var array<string, true> what is touched already */
    private array $touched = [];

    /** @var array<string, true> keys of samples that are taken */
    private array $taken = [];

    /** How many stories were replayed. */
    public int $told = 0;

    /** @param  list<Sample>  $samples  that are there */
    public function __construct(private readonly Book $book, array $samples)
    {
        $coverage = new Coverage;
        $runner = new SampleRunner($book->rulebook, $coverage);
        foreach ($samples as $sample) {
            $this->taken[$sample->key] = true;
            $this->touched += array_fill_keys($this->tried($this->traced($sample, $runner)), true);
        }
        $this->touched += array_fill_keys($coverage->marks(), true);
    }

    /** @return list<SampleResult> traced in full, each line of its variants by itself; a load is only replayed */
    private function traced(Sample $sample, SampleRunner $runner): array
    {
        return match (true) {
            $sample->lines !== [] => array_map(fn (Sample $line): SampleResult => $runner->run($line, TraceLevel::Full), $sample->lines),
            $sample->proves === 'load' => [$runner->run($sample)],
            default => [$runner->run($sample, TraceLevel::Full)],
        };
    }

    /**
     * @param  list<SampleResult>  $results
     * @return list<string> what the rules have met
     */
    private function tried(array $results): array
    {
        $marks = [];
        foreach ($results as $result) {
            foreach ($result->steps as $step) {
                foreach ($step->outcomes as $outcome) {
                    $outcome->trace === [] || array_push($marks, ...Tried::marks($outcome->trace, $this->book->rulebook));
                }
            }
        }

        return $marks;
    }

    /** @return list<Proposed> for each guard that has turned nothing down, and each mirror that has moved nothing */
    public function guardsAndMirrors(): array
    {
        $found = [];
        $stories = new GuardsAndMirrors($this->book);
        foreach ([...array_values($this->book->rulebook->guards), ...array_values($this->book->rulebook->mirrors)] as $part) {
            $mark = ($part instanceof Guard ? 'guard ' : 'mirror ').$part->key;
            $proposed = isset($this->touched[$mark]) ? null : $stories->about($part, $this->untaken(...));
            if ($proposed !== null) {
                $this->touched[$mark] = true;
                $found[] = $proposed;
            }
        }
        $this->told += $stories->told;

        return $found;
    }

    /** A sample's key from that of a part, taken from now on. */
    private function untaken(string $part): string
    {
        for ($number = 1; isset($this->taken[$part.'_'.$number]); $number++);
        $this->taken[$part.'_'.$number] = true;

        return $part.'_'.$number;
    }

    /** @return list<Proposed> for every rule that is switched on, and for guards and mirrors */
    public function all(?\Closure $progress = null): array
    {
        $found = [];
        $rules = $this->book->rules();
        foreach ($rules as $i => $rule) {
            array_push($found, ...$this->about($rule));
            $progress === null || $progress($i + 1, count($rules));
        }

        return [...$found, ...$this->guardsAndMirrors()];
    }

    /** @return list<Proposed> */
    public function about(Rule $rule): array
    {
        $found = [];
        foreach ($rule->on as $type) {
            $stories = new Stories($this->book, $rule, $type);
            $wanted = $this->wanted($rule, $stories);
            $random = new Randomizer(new Mt19937(crc32($rule->key.' '.$type)));
            $kept = [];
            $budget = (int) (self::BUDGET / count($rule->on));
            for ($try = 0; $try < $budget && array_diff_key($wanted, $this->touched) !== []; $try++) {
                $story = $this->next($rule, $stories, $random, $try, $kept, array_keys(array_diff_key($wanted, $this->touched)));
                $new = $this->news($story, $stories, $rule, $wanted);
                if ($new !== []) {
                    $story = $this->least($story, $stories, $rule, $new, $wanted);
                    $kept[] = $story;
                    $proposed = $this->keep($story, $stories, $rule, $new);
                    $proposed === null || $found[] = $proposed;
                }
            }
            array_push($found, ...$this->turned($rule, $stories, $kept, $random));
        }

        return $found;
    }

    /**
     * Then each value left empty, each bound from both sides, look-ups that find none, one and several: one thing
     * turned in a story that led somewhere.
     *
     * @param  list<array<string, mixed>>  $kept
     * @return list<Proposed>
     */
    private function turned(Rule $rule, Stories $stories, array $kept, Randomizer $random): array
    {
        $wanted = array_diff_key($stories->turns(), $this->touched);
        $marks = array_fill_keys(array_keys($wanted), true);
        for ($try = 0; $wanted !== [] && count($kept) < self::BASES; $try++) {
            $kept[] = $this->next($rule, $stories, $random, $try, [], $rule->rows === [] ? [] : ["row $rule->key ".$try % count($rule->rows)]);
        }
        $found = [];
        foreach ($wanted as $mark => [$variable, $value]) {
            foreach (array_slice($kept, 0, self::BASES) as $base) {
                if (isset($this->touched[$mark])) {
                    break;
                }
                $story = [...$base, $variable => $value];
                $new = $this->news($story, $stories, $rule, $marks);
                if (in_array($mark, $new, true)) {
                    $proposed = $this->keep($this->least($story, $stories, $rule, $new, $marks), $stories, $rule, $new);
                    $proposed === null || $found[] = $proposed;
                }
            }
        }

        return $found;
    }

    /**
     * A sample that comes out otherwise when the rulebook is changed; null when none was found.
     *
     * @param  int  $most  stories told at most
     */
    public function noticing(Mutation $mutation, int $most = 150): ?Proposed
    {
        foreach ($this->rulesFor($mutation) as $rule) {
            $isHere = preg_match('~^/rows/(\d+)(?:/if/(\d+))?~', $mutation->kind === 'rules' ? $mutation->at : '', $match) === 1;
            [$row, $column] = [$isHere ? (int) $match[1] : null, isset($match[2]) ? (int) $match[2] : null];
            foreach ($rule->on as $type) {
                $stories = new Stories($this->book, $rule, $type);
                $random = new Randomizer(new Mt19937(crc32($mutation->id())));
                for ($try = 0; $try < $most / count($rule->on); $try++) {
                    $story = $this->next($rule, $stories, $random, $try, [], $row === null ? [] : ["row $rule->key $row"], $column);
                    if (! $this->tells($story, $stories, $rule, $mutation)) {
                        continue;
                    }
                    foreach (array_reverse(array_keys($story)) as $variable) {
                        $less = array_diff_key($story, [$variable => 1]);
                        if (! in_array($variable, ['start', 'changes'], true) && $this->tells($less, $stories, $rule, $mutation)) {
                            $story = $less;
                        }
                    }

                    return $this->keep($story, $stories, $rule, [$mutation->says]);
                }
            }
        }

        return null;
    }

    /** @return list<Rule> whose stories may show a change */
    private function rulesFor(Mutation $mutation): array
    {
        $rules = $this->book->rules();

        return match ($mutation->kind) {
            'rules' => array_values(array_filter($rules, fn (Rule $r): bool => $r->key === $mutation->key)),
            'tables' => array_values(array_filter($rules, fn (Rule $r): bool => array_filter($r->formulas(), fn (Formula $f): bool => Walk::readsName($f->tree, $mutation->key)) !== [])),
            default => [],
        };
    }

    /**
     * Whether a story, with what comes out of it now as what is expected, comes out otherwise with the change.
     *
     * @param  array<string, mixed>  $story
     */
    private function tells(array $story, Stories $stories, Rule $rule, Mutation $mutation): bool
    {
        [$result, , $tree] = $this->run($story, $stories, $rule);
        if ($result === null) {
            return false;
        }
        try {
            $sample = SampleBuilder::build(Accepted::of($tree, $result, $rule));
        } catch (InvalidInput) {
            return false;
        }

        return (new SampleRunner($this->book->rulebook))->run($sample)->verdict === Verdict::Agrees && (new SampleRunner($mutation->rulebook))->run($sample)->verdict !== Verdict::Agrees;
    }

    /** @return array<string, true> what can be touched of a rule and of the tables that it calls */
    private function wanted(Rule $rule, Stories $stories): array
    {
        $wanted = ["acts $rule->key"];
        if ($rule->onlyIf !== null || $rule->checks !== []) {
            $wanted[] = "still $rule->key";
        }
        foreach ($rule->rows as $number => $row) {
            $wanted[] = "row $rule->key $number";
            foreach ($row->if as $column => $tests) {
                if (! $tests->alwaysHolds()) {
                    array_push($wanted, "cell $rule->key $number $column holds", "cell $rule->key $number $column fails");
                }
            }
        }
        foreach ($stories->calledTables() as $table) {
            foreach (array_keys($this->book->rulebook->tables[$table]->rows) as $number) {
                $wanted[] = "table $table $number";
            }
        }

        return array_fill_keys($wanted, true);
    }

    /**
     * @param  list<array<string, mixed>>  $kept  stories that were worth something
     * @param  list<string>  $open  what is still to be touched
     * @param  int|null  $besides  a check column that is not aimed at
     * @return array<string, mixed>
     */
    private function next(Rule $rule, Stories $stories, Randomizer $random, int $try, array $kept, array $open, ?int $besides = null): array
    {
        $pick = fn (array $values): mixed => $values[$random->getInt(0, count($values) - 1)];
        if ($kept !== [] && $try % 3 === 2) {
            // something near to what has led somewhere
            $story = $pick($kept);
            for ($i = 0; $i < 2; $i++) {
                $variable = $pick(array_keys($stories->variables));
                $story[$variable] = $pick($stories->variables[$variable]);
            }

            return $story;
        }
        $rows = [];
        foreach ($open as $mark) {
            if (preg_match('~^(?:row|cell) \S+ (\d+)~', $mark, $match) === 1) {
                $rows[] = (int) $match[1];
            }
        }
        $aimed = $rule->rows === [] || $try % 5 === 4 ? [] : $stories->aimedAt($rows === [] ? $try % count($rule->rows) : $pick($rows), $besides);
        $story = [];
        foreach ($stories->variables as $variable => $values) {
            $story[$variable] = $pick($aimed[$variable] ?? $values);
        }
        $story['start'] = $stories->variables['start'][$try % count($stories->variables['start'])];

        return $story;
    }

    /**
     * @param  array<string, mixed>  $story
     * @param  array<string, true>  $wanted
     * @return list<string> what it touches that is wanted and was not touched
     */
    private function news(array $story, Stories $stories, Rule $rule, array $wanted): array
    {
        [$result, $marks] = $this->run($story, $stories, $rule);

        return $result === null ? [] : array_values(array_filter($marks, fn (string $m): bool => isset($wanted[$m]) && ! isset($this->touched[$m])));
    }

    /**
     * @param  array<string, mixed>  $story
     * @return array{SampleResult|null, list<string>, array<string, mixed>} what came out, what was touched, the sample
     */
    private function run(array $story, Stories $stories, Rule $rule): array
    {
        $this->told++;
        $tree = $stories->tell($story, 'proposed', 'Proposed');
        if ($tree === null) {
            return [null, [], []];
        }
        try {
            $sample = SampleBuilder::build($tree);
        } catch (InvalidInput) {
            return [null, [], []];
        }
        $coverage = new Coverage;
        $result = (new SampleRunner($this->book->rulebook, $coverage))->run($sample, TraceLevel::Full);
        if ($result->verdict === Verdict::Broken || ! isset($result->rules[$rule->key])) {
            return [null, [], []];
        }
        foreach ($result->steps as $step) {
            // what guards turn down says nothing about a rule, unless the rule itself refuses
            if ($step->outcome?->isRefused() === true && $step->outcome->rules() === []) {
                return [null, [], []];
            }
        }

        return [$result, [...$coverage->marks(), ...$this->tried([$result])], $tree];
    }

    /**
     * The story without what it does not need.
     *
     * @param  array<string, mixed>  $story
     * @param  list<string>  $new
     * @param  array<string, true>  $wanted
     * @return array<string, mixed>
     */
    private function least(array $story, Stories $stories, Rule $rule, array $new, array $wanted): array
    {
        foreach (array_reverse(array_keys($story)) as $variable) {
            if ($variable === 'start' || $variable === 'changes') {
                continue;
            }
            $less = $story;
            unset($less[$variable]);
            if (array_diff($new, $this->news($less, $stories, $rule, $wanted)) === []) {
                $story = $less;
            }
        }

        return $story;
    }

    /**
     * @param  array<string, mixed>  $story
     * @param  list<string>  $new
     */
    private function keep(array $story, Stories $stories, Rule $rule, array $new): ?Proposed
    {
        [$result, $marks, $tree] = $this->run($story, $stories, $rule);
        if ($result === null) {
            return null;
        }
        $this->touched += array_fill_keys($marks, true);
        $status = $result->rules[$rule->key];
        $key = $this->untaken($rule->key);
        $nothing = array_filter($story, fn (mixed $v, string $k): bool => str_starts_with($k, 'n.') && $v === 0, ARRAY_FILTER_USE_BOTH) !== [];
        $several = array_filter($story, fn (mixed $v, string $k): bool => str_starts_with($k, 'n.') && is_int($v) && $v > 1, ARRAY_FILTER_USE_BOTH) !== [];
        $tree = [...$tree, 'key' => $key, 'title' => mb_strimwidth($this->title($story, $rule, $status->reachedRow()), 0, 150, ' …'), 'proves' => match (true) {
            $several => 'several', ! $status->reachedRow() => 'stay_still', $nothing => 'missing', default => 'act'
        }];
        $proposed = Accepted::of($tree, $result, $rule);

        return new Proposed($rule->key, $proposed, array_map(fn (string $m): string => $this->words($m), $new));
    }

    /** @param  array<string, mixed>  $story */
    private function title(array $story, Rule $rule, bool $acts): string
    {
        $type = $this->book->rulebook->types[$rule->on[0]];
        $words = [];
        foreach ($story as $variable => $value) {
            [$of, $key] = explode('.', $variable, 2) + [1 => ''];
            $field = $of === 'f' ? $type->fields[$key] ?? null : ($this->book->rulebook->types[$of]->fields[$key] ?? null);
            if ($field !== null && $field->key !== 'title') {
                $shown = match (true) {
                    $value === null => 'empty', is_bool($value) => $value ? 'yes' : 'no', is_string($value) => ($field->options[$value] ?? null)->label ?? $value, is_array($value) => implode(', ', array_map(strval(...), $value)), default => json_encode($value)
                };
                $words[] = $field->label.' '.$shown;
            } elseif ($of === 'n') {
                $words[] = sprintf('%s found for "%s"', match ($value) {
                    0 => 'nothing', 1 => 'one', default => (string) $value
                }, $key);
            }
        }

        return $rule->title.($acts ? '' : ': stays still').($words === [] ? '' : ($acts ? ': ' : ', ').implode(', ', $words));
    }

    private function words(string $mark): string
    {
        $parts = explode(' ', $mark);
        $number = fn (int $i): int => (int) ($parts[$i] ?? 0) + 1;

        return match ($parts[0]) {
            'acts' => 'it acts',
            'still' => 'it stays still',
            'row' => 'row '.$number(2).' is hit',
            'cell' => sprintf('row %d, check %d %s', $number(2), $number(3), $parts[4] ?? ''),
            'found' => sprintf('"%s" finds %s', $parts[2] ?? '', ['nothing', 'one', 'several'][(int) ($parts[3] ?? 0)]),
            'tried' => $this->met($parts[2] ?? '', implode(' ', array_slice($parts, 3))),
            'table' => sprintf('row %d of the table "%s" is hit', $number(2), $this->book->rulebook->tables[$parts[1] ?? '']->title ?? ''),
            default => $mark,
        };
    }

    private function met(string $variable, string $plain): string
    {
        [$of, $key] = explode('.', $variable, 2) + [1 => ''];
        $fields = array_map(fn ($type): ?Field => $type->fields[$key] ?? null, $of === 'f' ? $this->book->rulebook->types : array_intersect_key($this->book->rulebook->types, [$of => 1]));
        $label = (array_values(array_filter($fields))[0] ?? null)->label ?? $key;

        return $plain === 'null' ? sprintf('%s is empty', $label) : sprintf('%s is %s, at a bound', $label, $plain);
    }
}
