<?php

declare(strict_types=1);

namespace Sorvel\App\Run;

use Doctrine\DBAL\Connection;
use Sorvel\App\Impact\PastEvents;
use Sorvel\Core\Engine\RuleStatus;

/** Where runs are written: those of one transaction together, in one statement. */
final class RunLog
{
    /** Packets stay well below what a database takes by default. */
    private const MOST_BYTES = 4_000_000;

    private const MOST_ROWS = 500;

    private ?int $step = null;

    public function __construct(private readonly Connection $database, private readonly PastEvents $past)
    {
    }

    /**
     * Inside the transaction that saves what the runs are about. Each is given its number.
     *
     * @param  list<Run>  $runs
     */
    public function write(array $runs): void
    {
        [$some, $rows, $bytes] = [[], [], 0];
        foreach ($runs as $run) {
            $row = $run->row();
            $some[] = $run;
            $rows[] = $row;
            $bytes += strlen((string) $row['trace']) + strlen((string) $row['values_after']);
            if ($bytes > self::MOST_BYTES || count($rows) === self::MOST_ROWS) {
                $this->insert($some, $rows);
                [$some, $rows, $bytes] = [[], [], 0];
            }
        }
        $this->insert($some, $rows);
    }

    /**
     * @param  list<Run>  $runs
     * @param  list<array<string, float|int|string|null>>  $rows
     */
    private function insert(array $runs, array $rows): void
    {
        if ($rows === []) {
            return;
        }
        $this->many('run', array_keys($rows[0]), $rows);
        // the numbers of one statement follow each other, from the one that is told
        $first = (int) $this->database->lastInsertId();
        $rules = [];
        foreach ($runs as $i => $run) {
            $run->becomes($first + $i * $this->step());
            foreach ($run->rules() as $rule => $status) {
                if (RuleStatus::from($status) !== RuleStatus::Looked) {
                    $rules[] = [$first + $i * $this->step(), $rule, $status, $run->at()->format('Y-m-d')];
                }
            }
        }
        $past = [];
        foreach ($runs as $run) {
            $run->past() === null || $past[] = [$run->past(), $run->number()];
        }
        $this->past->keep($past);
        foreach (array_chunk($rules, self::MOST_ROWS) as $chunk) {
            $this->many('run_rule', ['run', 'rule', 'status', 'day'], $chunk);
        }
    }

    /** Databases that replicate to each other count in steps. */
    private function step(): int
    {
        if ($this->step === null) {
            $step = $this->database->fetchOne('SELECT @@auto_increment_increment');
            $this->step = is_numeric($step) ? max(1, (int) $step) : 1;
        }

        return $this->step;
    }

    /**
     * @param  list<string>  $columns
     * @param  list<array<array-key, float|int|string|null>>  $rows
     */
    private function many(string $table, array $columns, array $rows): void
    {
        $marks = '('.implode(', ', array_fill(0, count($columns), '?')).')';
        $this->database->executeStatement('INSERT INTO '.$table.' ('.implode(', ', $columns).') VALUES '.implode(', ', array_fill(0, count($rows), $marks)), array_merge(...array_map(array_values(...), $rows)));
    }
}
