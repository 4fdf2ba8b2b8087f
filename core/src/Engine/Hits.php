<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

use Sorvel\Core\Model\Rulebook;

/** The rows that an event hit and the check cells that it saw, told apart only when somebody asks. */
final class Hits
{
    /** @var array{array<string, array<int, int>>, array<string, array<int, array<int, int>>>}|null */
    private ?array $told = null;

    /**
     * @param  array<string, array<int, int>>  $rows  of rules that were walked
     * @param  array<string, array<int, array<int, int>>>  $cells  of rules that were walked
     * @param  array<string, list<int>>  $ways  of compiled rules, {@see RuleCompiler::path}
     */
    public function __construct(private readonly Rulebook $rulebook, private readonly array $rows, private readonly array $cells, private readonly array $ways)
    {
    }

    /** @return array<string, array<int, int>> by rule, row to how often it was hit */
    public function rows(): array
    {
        return $this->told()[0];
    }

    /** @return array<string, array<int, array<int, int>>> by rule, row and column: 1 seen holding, 2 seen failing, 3 both */
    public function cells(): array
    {
        return $this->told()[1];
    }

    /** @return array{array<string, array<int, int>>, array<string, array<int, array<int, int>>>} */
    private function told(): array
    {
        if ($this->told !== null) {
            return $this->told;
        }
        [$allRows, $allCells] = [$this->rows, $this->cells];
        foreach ($this->ways as $key => $ways) {
            foreach ($ways as $way) {
                [$rows, $cells] = RuleCompiler::path($this->rulebook->rules[$key], $way);
                foreach ($rows as $row) {
                    $allRows[$key][$row] = ($allRows[$key][$row] ?? 0) + 1;
                }
                foreach ($cells as $row => $columns) {
                    foreach ($columns as $column => $bits) {
                        $allCells[$key][$row][$column] = ($allCells[$key][$row][$column] ?? 0) | $bits;
                    }
                }
            }
        }

        return $this->told = [$allRows, $allCells];
    }
}
