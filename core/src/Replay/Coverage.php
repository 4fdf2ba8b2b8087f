<?php

declare(strict_types=1);

namespace Sorvel\Core\Replay;

use Sorvel\Core\Engine\Outcome;
use Sorvel\Core\Engine\RuleStatus;
use Sorvel\Core\Engine\Ways;
use Sorvel\Core\Finding\Reach;
use Sorvel\Core\Model\Rulebook;
use Sorvel\Core\Rule\Rule;

/** What replayed samples have touched: rules due and acted, rows hit, check cells seen both ways, table rows. */
final class Coverage
{
    /** @var array<string, int> */
    private array $started = [];

    /** @var array<string, int> */
    private array $acted = [];

    /** @var array<string, array<int, int>> */
    private array $rows = [];

    /** @var array<string, array<int, array<int, int>>> */
    private array $cells = [];

    /** @var array<string, array<int, int>> */
    private array $tables = [];

    /** @var array<string, array<int, int>> by compiled rule, ways through its rows that are still to be told apart */
    private array $ways = [];

    /** @var array<string, Rule> */
    private array $rules = [];

    /** @var array<string, int> */
    private array $guards = [];

    /** @var array<string, int> */
    private array $mirrors = [];

    public function take(Outcome $outcome): void
    {
        foreach ($outcome->guards as $guard) {
            $this->guards[$guard] = ($this->guards[$guard] ?? 0) + 1;
        }
        foreach ($outcome->mirrors as $mirror) {
            $this->mirrors[$mirror] = ($this->mirrors[$mirror] ?? 0) + 1;
        }
        foreach ($outcome->rules() as $rule => $status) {
            $this->started[$rule] = ($this->started[$rule] ?? 0) + 1;
            $this->acted[$rule] = ($this->acted[$rule] ?? 0) + ($status === RuleStatus::Acted || $status === RuleStatus::NoEffect ? 1 : 0);
        }
        $outcome->hits->count($this->ways, $this->rules);
        [$rows, $cells] = $outcome->hits->walked();
        foreach ([[&$this->rows, $rows], [&$this->tables, $outcome->tableRows]] as [&$into, $from]) {
            foreach ($from as $key => $rows) {
                foreach ($rows as $row => $count) {
                    $into[$key][$row] = ($into[$key][$row] ?? 0) + $count;
                }
            }
        }
        foreach ($cells as $rule => $rows) {
            foreach ($rows as $row => $columns) {
                foreach ($columns as $column => $bits) {
                    $this->cells[$rule][$row][$column] = ($this->cells[$rule][$row][$column] ?? 0) | $bits;
                }
            }
        }
    }

    /** Rows and cells are told from ways once, however many events took them. */
    private function tell(): void
    {
        if ($this->ways !== []) {
            [$this->rows, $this->cells] = Ways::told($this->ways, $this->rules, $this->rows, $this->cells);
            $this->ways = $this->rules = [];
        }
    }

    /** @return list<string> what was touched, a word each: comparable between runs */
    public function marks(): array
    {
        $this->tell();
        $marks = [];
        foreach ($this->started as $rule => $count) {
            $acted = $this->acted[$rule] ?? 0;
            $acted > 0 && $marks[] = "acts $rule";
            $count > $acted && $marks[] = "still $rule";
        }
        foreach ($this->rows as $rule => $rows) {
            foreach (array_keys($rows) as $row) {
                $marks[] = "row $rule $row";
            }
        }
        foreach ($this->cells as $rule => $rows) {
            foreach ($rows as $row => $columns) {
                foreach ($columns as $column => $bits) {
                    $bits & 1 && $marks[] = "cell $rule $row $column holds";
                    $bits & 2 && $marks[] = "cell $rule $row $column fails";
                }
            }
        }
        foreach ($this->tables as $table => $rows) {
            foreach (array_keys($rows) as $row) {
                $marks[] = "table $table $row";
            }
        }
        foreach (array_keys($this->guards) as $guard) {
            $marks[] = "guard $guard";
        }
        foreach (array_keys($this->mirrors) as $mirror) {
            $marks[] = "mirror $mirror";
        }

        return $marks;
    }

    /** @return array<string, array<string, mixed>> the counts as they are, plain data, for {@see fromCounts} */
    public function counts(): array
    {
        $this->tell();

        return ['started' => $this->started, 'acted' => $this->acted, 'rows' => $this->rows, 'cells' => $this->cells, 'tables' => $this->tables, 'guards' => $this->guards, 'mirrors' => $this->mirrors];
    }

    /** @param  array<string, array<string, mixed>>  $counts  of {@see counts}, also by way of JSON */
    public static function fromCounts(array $counts): self
    {
        $coverage = new self;
        foreach (array_keys($coverage->counts()) as $of) {
            $coverage->{$of} = $counts[$of] ?? [];
        }

        return $coverage;
    }

    /** Joins what other samples have touched. */
    public function add(self $other): void
    {
        $this->tell();
        $other->tell();
        foreach (['started', 'acted', 'guards', 'mirrors'] as $counts) {
            foreach ($other->{$counts} as $key => $count) {
                $this->{$counts}[$key] = ($this->{$counts}[$key] ?? 0) + $count;
            }
        }
        foreach (['rows', 'tables'] as $lists) {
            foreach ($other->{$lists} as $key => $rows) {
                foreach ($rows as $row => $count) {
                    $this->{$lists}[$key][$row] = ($this->{$lists}[$key][$row] ?? 0) + $count;
                }
            }
        }
        foreach ($other->cells as $rule => $rows) {
            foreach ($rows as $row => $columns) {
                foreach ($columns as $column => $bits) {
                    $this->cells[$rule][$row][$column] = ($this->cells[$rule][$row][$column] ?? 0) | $bits;
                }
            }
        }
    }

    /** @return array{rules: list<array<string, mixed>>, tables: list<array<string, mixed>>, guards: list<array{key: string, tripped: int}>, mirrors: list<array{key: string, moved: int}>, figures: array<string, array{covered: int, total: int}>} plain data; a cell is null where it always holds, else 0 not seen, 1 seen holding, 2 seen failing, 3 both */
    public function toArray(Rulebook $rulebook): array
    {
        $this->tell();
        $rules = [];
        foreach ($rulebook->rules as $key => $rule) {
            $rows = [];
            foreach ($rule->rows as $number => $row) {
                $cells = [];
                foreach ($row->if as $column => $tests) {
                    $cells[] = $tests->alwaysHolds() ? null : $this->cells[$key][$number][$column] ?? 0;
                }
                $rows[] = ['hit' => $this->rows[$key][$number] ?? 0, 'cells' => $cells];
            }
            $rules[] = ['key' => $key, 'started' => $this->started[$key] ?? 0, 'acted' => $this->acted[$key] ?? 0, 'rows' => $rows];
        }
        $tables = [];
        foreach ($rulebook->tables as $key => $table) {
            $rows = [];
            foreach ($table->rows as $row => $_) {
                $rows[] = ['hit' => $this->tables[$key][$row] ?? 0];
            }
            $tables[] = ['key' => $key, 'rows' => $rows];
        }
        $guards = array_map(fn (string $key): array => ['key' => $key, 'tripped' => $this->guards[$key] ?? 0], array_map(strval(...), array_keys($rulebook->guards)));
        $mirrors = array_map(fn (string $key): array => ['key' => $key, 'moved' => $this->mirrors[$key] ?? 0], array_map(strval(...), array_keys($rulebook->mirrors)));

        return ['rules' => $rules, 'tables' => $tables, 'guards' => $guards, 'mirrors' => $mirrors, 'figures' => $this->figures($rulebook)];
    }

    /** @return array<'rules'|'rows'|'cells'|'table_rows'|'guards'|'mirrors', array{covered: int, total: int}> rules that acted, rows hit, check cells seen both ways, and so on; of rules that are switched on */
    public function figures(Rulebook $rulebook): array
    {
        $figures = array_fill_keys(['rules', 'rows', 'cells', 'table_rows', 'guards', 'mirrors'], ['covered' => 0, 'total' => 0]);
        foreach ($this->places($rulebook) as [$what, , , , $isCovered]) {
            $figures[$what]['total']++;
            $figures[$what]['covered'] += $isCovered ? 1 : 0;
        }

        return $figures;
    }

    /** @return list<array{what: string, kind: string, key: string, says: string}> what no sample has touched, in words */
    public function missing(Rulebook $rulebook): array
    {
        $missing = [];
        foreach ($this->places($rulebook) as [$what, $kind, $key, $says, $isCovered]) {
            if (! $isCovered) {
                $missing[] = ['what' => $what, 'kind' => $kind, 'key' => $key, 'says' => $says];
            }
        }

        return $missing;
    }

    /** @return iterable<array{'rules'|'rows'|'cells'|'table_rows'|'guards'|'mirrors', string, string, string, bool}> each place that can be covered: what, kind and key of the part, what is missing in words, whether it is covered */
    private function places(Rulebook $rulebook): iterable
    {
        $this->tell();
        foreach ($rulebook->rules as $key => $rule) {
            if (! $rule->enabled) {
                continue;
            }
            yield ['rules', 'rules', $key, sprintf('"%s" never acts.', $rule->title), ($this->acted[$key] ?? 0) > 0];
            foreach ($rule->rows as $number => $row) {
                yield ['rows', 'rules', $key, sprintf('Row %d of "%s" is never hit.', $number + 1, $rule->title), ($this->rows[$key][$number] ?? 0) > 0];
                foreach ($row->if as $column => $tests) {
                    if (! $tests->alwaysHolds()) {
                        $bits = $this->cells[$key][$number][$column] ?? 0;
                        // what no value can bring about need not be seen
                        $can = Reach::of($rule, $number, $column, $rulebook);
                        $bits |= 3 & ~$can;
                        yield ['cells', 'rules', $key, sprintf('Row %d of "%s": %s %s is never seen %s.', $number + 1, $rule->title, $rule->checks[$column]->source, $tests->source, ['holding or failing', 'failing', 'holding', ''][$bits]), $bits === 3];
                    }
                }
            }
        }
        foreach ($rulebook->tables as $key => $table) {
            foreach (array_keys($table->rows) as $number) {
                yield ['table_rows', 'tables', $key, sprintf('Row %d of the table "%s" is never hit.', $number + 1, $table->title), ($this->tables[$key][$number] ?? 0) > 0];
            }
        }
        foreach ($rulebook->guards as $key => $guard) {
            yield ['guards', 'guards', $key, sprintf('The guard "%s" never turns anything down.', $key), ($this->guards[$key] ?? 0) > 0];
        }
        foreach ($rulebook->mirrors as $key => $mirror) {
            yield ['mirrors', 'mirrors', $key, sprintf('The mirror "%s" never moves its field.', $key), ($this->mirrors[$key] ?? 0) > 0];
        }
    }

    /** @return array<int, array<int, int>> by row and column of a rule's checks: 1 seen holding, 2 seen failing, 3 both */
    public function cells(string $rule): array
    {
        $this->tell();

        return $this->cells[$rule] ?? [];
    }
}
