<?php

declare(strict_types=1);

namespace Sorvel\Core\Model;

use Brick\Math\BigDecimal;
use Sorvel\Core\Feel\Number;
use Sorvel\Core\Feel\Values;

/** The values that a formula read, by path, in the order read; and the rows its table calls hit. */
final class Reads
{
    /** @var array<string, mixed> by path; public since every field that a formula reads is noted here */
    public array $values = [];

    /** @var list<array{table: string, inputs: list<mixed>, rows: list<int>, value: mixed}> calls of tables: what went in, the rows hit (from 0), what came out */
    public array $tables = [];

    public function note(string $path, mixed $stored): void
    {
        $this->values[$path] = $stored;
    }

    /** @return array{reads: array<string, mixed>, tables: list<array{table: string, inputs: list<mixed>, rows: list<int>, value: mixed}>} what was read since the last call */
    public function take(): array
    {
        $taken = ['reads' => $this->values, 'tables' => $this->tables];
        $this->values = [];
        $this->tables = [];

        return $taken;
    }

    /**
     * What was taken as plain data, for a trace.
     *
     * @param  array{reads: array<string, mixed>, tables: list<array{table: string, inputs: list<mixed>, rows: list<int>, value: mixed}>}  $taken
     * @return array{reads: array<string, mixed>, tables: list<array{table: string, inputs: list<mixed>, rows: list<int>, value: mixed}>}
     */
    public static function plain(array $taken): array
    {
        foreach ($taken['reads'] as $path => $value) {
            if ($value instanceof BigDecimal) {
                $taken['reads'][$path] = Number::json($value);
            }
        }
        foreach ($taken['tables'] as $i => $call) {
            $taken['tables'][$i]['inputs'] = array_map(Values::json(...), $call['inputs']);
            $taken['tables'][$i]['value'] = Values::json($call['value']);
        }

        return $taken;
    }
}
