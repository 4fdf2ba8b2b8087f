<?php

declare(strict_types=1);

namespace Sorvel\Core\Table;

use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Feel\FunctionValue;
use Sorvel\Core\Feel\MapScope;
use Sorvel\Core\Feel\Node\Literal;
use Sorvel\Core\Feel\Number;
use Sorvel\Core\Feel\PlainContext;
use Sorvel\Core\Feel\Values;
use Sorvel\Core\Feel\Warnings;
use Sorvel\Core\Model\Reads;

/** A decision table (DMN 1.5, chapter 8), callable from formulas by its key. */
final class Table
{
    /** @var array<string, list<int>>|null */
    private ?array $byText = null;

    /** @var array<string, Result|false> by the text given; false where a formula has to be run */
    private array $results = [];

    /** @var list<string> of the inputs */
    private readonly array $keys;

    /**
     * @param  list<Input>  $inputs  at least one
     * @param  list<Output>  $outputs  at least one
     * @param  list<Row>  $rows
     * @param  list<Formula|null>  $default  one an output; empty when there is none
     */
    public function __construct(
        public readonly string $key,
        public readonly string $title,
        public readonly array $inputs,
        public readonly array $outputs,
        public readonly HitPolicy $hit,
        public readonly array $rows,
        public readonly array $default,
    ) {
        $this->keys = array_map(fn (Input $i): string => $i->key, $inputs);
    }

    public function asFunction(Reads $reads): FunctionValue
    {
        $parameters = $this->keys;

        return new FunctionValue($this->key, $parameters, function (array $arguments, Warnings $warnings) use ($reads): mixed {
            $first = $arguments[0];
            $result = (is_string($first) ? $this->results[$first] ?? null : null) ?: $this->decide($arguments, $warnings);
            $reads->tables[] = ['table' => $this->key, 'inputs' => $arguments, 'rows' => $result->rows, 'value' => $result->value];

            return $result->value;
        }, count($parameters));
    }

    /** @param  list<mixed>  $arguments one an input, FEEL values */
    public function decide(array $arguments, Warnings $warnings): Result
    {
        $known = $this->known($arguments[0]);
        if ($known !== null) {
            return $known;
        }
        $scope = new MapScope(array_combine($this->keys, $arguments));
        $hits = [];
        foreach ($this->candidates($arguments[0]) as $number) {
            $row = $this->rows[$number];
            foreach ($row->if as $column => $tests) {
                if (! $tests->alwaysHolds() && $tests->hold($arguments[$column], $scope, $warnings) !== true) {
                    continue 2;
                }
            }
            $hits[] = $number;
            if ($this->hit === HitPolicy::First) {
                break;
            }
        }
        if ($hits === []) {
            return new Result([], $this->default === [] ? null : $this->outputs($this->default, $scope, $warnings));
        }

        return new Result($hits, $this->combine($hits, $scope, $warnings));
    }

    /**
     * What a table of one input whose rows are sets of texts gives for a text, when that needs no formula to be run: a
     * literal of the one row that fits.
     */
    private function known(mixed $first): ?Result
    {
        if (! is_string($first) || count($this->inputs) > 1) {
            return null;
        }
        if (! isset($this->results[$first])) {
            $rows = $this->candidates($first);
            $one = count($rows) === 1 && $this->byText !== [] && in_array($this->hit, [HitPolicy::Unique, HitPolicy::First, HitPolicy::Any, HitPolicy::Priority], true);
            $cell = $one && count($this->outputs) === 1 ? $this->rows[$rows[0]]->then[0]?->tree : null;
            $this->results = count($this->results) > 1000 ? [] : $this->results;
            $this->results[$first] = $cell instanceof Literal ? new Result($rows, $cell->value) : false;
        }

        return $this->results[$first] === false ? null : $this->results[$first];
    }

    /**
     * The rows that the first input leaves open. Where all its tests are sets of texts, a look in a map says which.
     *
     * @return list<int>
     */
    private function candidates(mixed $first): array
    {
        $this->byText ??= $this->index();
        if ($this->byText === [] || ! is_string($first)) {
            return array_keys($this->rows);
        }

        return $this->byText[$first] ?? $this->byText[''] ?? [];
    }

    /** @return array<string, list<int>> by text, the rows in order; under the empty text those for any other; empty when the tests are not all such */
    private function index(): array
    {
        $rows = [];
        $any = [];
        foreach ($this->rows as $number => $row) {
            $texts = $row->if[0]->alwaysHolds() ? [] : $row->if[0]->texts();
            if ($texts === null || in_array('', $texts, true)) {
                return [];
            }
            foreach ($texts as $text) {
                $rows[$text] ??= $any;
                $rows[$text][] = $number;
            }
            if ($texts === []) {
                foreach (array_keys($rows) as $text) {
                    $rows[$text][] = $number;
                }
                $any[] = $number;
            }
        }

        return $rows === [] ? [] : [...array_map(fn (array $list): array => array_values(array_unique($list)), $rows), '' => $any];
    }

    /** @param  non-empty-list<int>  $hits */
    private function combine(array $hits, MapScope $scope, Warnings $warnings): mixed
    {
        if (count($hits) === 1 && in_array($this->hit, [HitPolicy::Unique, HitPolicy::First, HitPolicy::Any, HitPolicy::Priority], true)) {
            return $this->outputs($this->rows[$hits[0]]->then, $scope, $warnings);
        }
        $values = array_map(fn (int $row): mixed => $this->outputs($this->rows[$row]->then, $scope, $warnings), $hits);
        $numbers = implode(', ', array_map(fn (int $row): int => $row + 1, $hits));

        return match ($this->hit) {
            HitPolicy::Unique => count($hits) === 1 ? $values[0] : $warnings->add(sprintf('Rows %s of "%s" fit at once; only one may.', $numbers, $this->title)),
            HitPolicy::First => $values[0],
            HitPolicy::Any => $this->same($values) ? $values[0] : $warnings->add(sprintf('Rows %s of "%s" fit at once and say different things.', $numbers, $this->title)),
            HitPolicy::Priority => $this->ordered($values)[0],
            HitPolicy::OutputOrder => $this->ordered($values),
            HitPolicy::RuleOrder, HitPolicy::Collect => $values,
            HitPolicy::CollectCount => count($values),
            default => $this->aggregate($values, $warnings),
        };
    }

    /** @param  list<Formula|null>  $cells */
    private function outputs(array $cells, MapScope $scope, Warnings $warnings): mixed
    {
        if (count($this->outputs) === 1) {
            return $cells[0]?->value($scope, $warnings);
        }
        $entries = [];
        foreach ($this->outputs as $column => $output) {
            $entries[$output->key] = $cells[$column]?->value($scope, $warnings);
        }

        return new PlainContext($entries);
    }

    /** @param  list<mixed>  $values */
    private function same(array $values): bool
    {
        foreach ($values as $value) {
            if (Values::equal($values[0], $value) !== true) {
                return false;
            }
        }

        return true;
    }

    /**
     * Highest first, by the outputs' listed values, the first output counting most.
     *
     * @param  non-empty-list<mixed>  $values
     * @return non-empty-list<mixed>
     */
    private function ordered(array $values): array
    {
        usort($values, function (mixed $a, mixed $b): int {
            foreach ($this->outputs as $output) {
                $order = $output->rank($a instanceof PlainContext ? $a->get($output->key) : $a) <=> $output->rank($b instanceof PlainContext ? $b->get($output->key) : $b);
                if ($order !== 0) {
                    return $order;
                }
            }

            return 0;
        });

        return $values;
    }

    /** @param  non-empty-list<mixed>  $values */
    private function aggregate(array $values, Warnings $warnings): mixed
    {
        $best = null;
        foreach ($values as $value) {
            if (! is_int($value) && ! $value instanceof \Brick\Math\BigDecimal) {
                return $warnings->add(sprintf('"%s" needs numbers to collect, not %s.', $this->title, Values::kind($value)));
            }
            $best = match (true) {
                $best === null => $value,
                $this->hit === HitPolicy::CollectSum => Number::add($best, $value),
                $this->hit === HitPolicy::CollectMin => Number::compare($value, $best) < 0 ? $value : $best,
                default => Number::compare($value, $best) > 0 ? $value : $best,
            };
        }

        return $best;
    }
}
