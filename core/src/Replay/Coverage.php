<?php

declare(strict_types=1);

namespace Sorvel\Core\Replay;

use Sorvel\Core\Engine\Outcome;
use Sorvel\Core\Engine\RuleStatus;
use Sorvel\Core\Model\Rulebook;

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

    /** @var array<string, int> */
    private array $guards = [];

    public function take(Outcome $outcome): void
    {
        foreach ($outcome->guards as $guard) {
            $this->guards[$guard] = ($this->guards[$guard] ?? 0) + 1;
        }
        foreach ($outcome->rules as $rule => $status) {
            $this->started[$rule] = ($this->started[$rule] ?? 0) + 1;
            $this->acted[$rule] = ($this->acted[$rule] ?? 0) + ($status === RuleStatus::Acted || $status === RuleStatus::NoEffect ? 1 : 0);
        }
        foreach ([[&$this->rows, $outcome->rows], [&$this->tables, $outcome->tableRows]] as [&$into, $from]) {
            foreach ($from as $key => $rows) {
                foreach ($rows as $row => $count) {
                    $into[$key][$row] = ($into[$key][$row] ?? 0) + $count;
                }
            }
        }
        foreach ($outcome->cells as $rule => $rows) {
            foreach ($rows as $row => $columns) {
                foreach ($columns as $column => $bits) {
                    $this->cells[$rule][$row][$column] = ($this->cells[$rule][$row][$column] ?? 0) | $bits;
                }
            }
        }
    }

    /** @return array{rules: list<array<string, mixed>>, tables: list<array<string, mixed>>, guards: list<array{key: string, tripped: int}>} plain data */
    public function toArray(Rulebook $rulebook): array
    {
        $rules = [];
        foreach ($rulebook->rules as $key => $rule) {
            $rows = [];
            foreach ($rule->rows as $row => $_) {
                $rows[] = ['hit' => $this->rows[$key][$row] ?? 0];
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

        return ['rules' => $rules, 'tables' => $tables, 'guards' => $guards];
    }

    /** @return array<int, array<int, int>> by row and column of a rule's checks: 1 seen holding, 2 seen failing, 3 both */
    public function cells(string $rule): array
    {
        return $this->cells[$rule] ?? [];
    }
}
