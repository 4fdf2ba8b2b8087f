<?php

declare(strict_types=1);

namespace Sorvel\Core\Model;

use Brick\Math\BigDecimal;
use Sorvel\Core\Feel\Number;

/** The values that a formula read, by path, in the order read; and the rows its table calls hit. */
final class Reads
{
    /** @var array<string, mixed> */
    private array $values = [];

    /** @var list<array{table: string, inputs: list<mixed>, rows: list<int>, value: mixed}> */
    private array $tables = [];

    public function note(string $path, mixed $stored): void
    {
        $this->values[$path] = $stored instanceof BigDecimal ? Number::json($stored) : $stored;
    }

    /**
     * @param  list<mixed>  $inputs  plain data
     * @param  list<int>  $rows  hit rows, from 0
     */
    public function table(string $table, array $inputs, array $rows, mixed $value): void
    {
        $this->tables[] = ['table' => $table, 'inputs' => $inputs, 'rows' => $rows, 'value' => $value];
    }

    /** @return array{reads: array<string, mixed>, tables: list<array{table: string, inputs: list<mixed>, rows: list<int>, value: mixed}>} what was read since the last call */
    public function take(): array
    {
        $taken = ['reads' => $this->values, 'tables' => $this->tables];
        $this->values = [];
        $this->tables = [];

        return $taken;
    }
}
