<?php

declare(strict_types=1);

namespace Sorvel\App\Setup;

use Doctrine\DBAL\Connection;
use Doctrine\ORM\EntityManagerInterface;
use Psr\Clock\ClockInterface;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Sorvel\App\Desk\Desk;
use Sorvel\App\Desk\Records;
use Sorvel\App\Import\Import;
use Sorvel\App\Import\Importer;
use Sorvel\App\Import\ImportRows;
use Sorvel\App\Import\Stage;
use Sorvel\App\Import\WorkOnImport;
use Sorvel\Core\Model\Record;
use Symfony\Component\Console\Attribute\AsCommand;
use Symfony\Component\Console\Command\Command;
use Symfony\Component\Console\Helper\ProgressBar;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Output\OutputInterface;

/** What `bin/sorvel bench desk` does inside the application: fills a desk of its own, and measures what has no address. */
#[AsCommand('sorvel:bench-desk', 'For bin/sorvel bench desk.')]
final class BenchCommand extends Command
{
    private const TICKETS = 100_000;

    private const PARTS = 10_000;

    private const BIG = 10_000;

    private const SMALL = 100;

    public function __construct(
        private readonly Desk $desk,
        private readonly Records $records,
        private readonly Connection $database,
        private readonly EntityManagerInterface $entities,
        private readonly ClockInterface $clock,
        private readonly Importer $importer,
        private readonly ImportRows $rows,
    ) {
        parent::__construct();
    }

    protected function configure(): void
    {
        $this->addArgument('what', InputArgument::REQUIRED, 'fill, lookups, tally or engine');
    }

    protected function execute(InputInterface $input, OutputInterface $output): int
    {
        match ($input->getArgument('what')) {
            'fill' => $this->fill($output),
            'engine' => $output->writeln((string) json_encode($this->engine())),
            'lookups' => $output->writeln((string) json_encode($this->lookUps())),
            default => $output->writeln((string) json_encode($this->tally())),
        };

        return Command::SUCCESS;
    }

    /** Tickets like those of the demo desk, as settled as those are; and parts, with two vessels of many faults and of few. */
    private function fill(OutputInterface $output): void
    {
        $random = new Randomizer(new Mt19937(7));
        $rulebook = $this->desk->rulebook();
        $now = $this->clock->now();
        $bar = new ProgressBar($output, self::PARTS + self::TICKETS);
        $bar->setRedrawFrequency(2000);
        $bar->minSecondsBetweenRedraws($output->isDecorated() ? 0.2 : 15);
        $this->database->beginTransaction();
        for ($i = 1; $i <= self::PARTS; $i++) {
            $this->records->insert(new Record('BP-'.$i, 'part', ['name' => 'Part '.$i, 'code' => 'BEN-'.$i, 'family' => 'PF-'.(1 + $i % 5), 'maker' => 'C-'.(1 + $i % 4)]), $rulebook->types['part'], $now);
            $bar->advance();
        }
        foreach (['V-BIG' => 'Great Many', 'V-SMALL' => 'Very Few'] as $id => $name) {
            $this->records->insert(new Record($id, 'vessel', ['name' => $name, 'in_service' => true]), $rulebook->types['vessel'], $now);
        }
        $like = [];
        foreach (array_keys($rulebook->types) as $type) {
            foreach ($rulebook->types[$type]->isTicket ? $this->records->findMany(iterator_to_array($this->records->ids((string) $type), false), $rulebook) : [] as $stored) {
                $like[] = $stored->record;
            }
        }
        $numbers = [];
        for ($i = 0; $i < self::TICKETS; $i++) {
            $record = $like[$random->getInt(0, count($like) - 1)];
            $type = $rulebook->types[$record->type];
            $number = $numbers[$type->key] = ($numbers[$type->key] ?? 1000) + 1;
            $at = $now->modify(sprintf('-%d minutes', $random->getInt(1, 500_000)));
            $moment = $at->setTimezone(new \DateTimeZone('UTC'))->format('Y-m-d\\TH:i:s\\Z');
            $values = ['number' => $type->short.'-'.$number, 'created_at' => $moment, 'changed_at' => $moment] + $record->values;
            if ($type->key === 'fault') {
                $values['hours_down'] = $random->getInt(1, 90);
                $values['part'] = 'BP-'.$random->getInt(1, self::PARTS);
                $values['part_code'] = 'BEN-'.substr($values['part'], 3);
                unset($values['part_family']);
                $faults = ($faults ?? 0) + 1;
                $values['vessel'] = match (true) {
                    $faults <= self::BIG => 'V-BIG', $faults <= self::BIG + self::SMALL => 'V-SMALL', default => 'V-0'.$random->getInt(1, 7)
                };
            }
            $this->records->insert(new Record($type->short.'-'.$number, $type->key, $values), $type, $at);
            if ($type->key === 'fault') {
                $hits[$values['part']]['t'.$values['vessel']] = ($hits[$values['part']]['t'.$values['vessel']] ?? 0) + 1;
            }
            $bar->advance();
            if ($i % 2000 === 1999) {
                $this->database->commit();
                $this->database->beginTransaction();
            }
        }
        foreach ($numbers as $type => $last) {
            $this->database->executeStatement('UPDATE record_counter SET last = ? WHERE type = ?', [$last, $type]);
        }
        foreach (array_chunk(array_keys($hits ?? []), 500) as $ids) {
            foreach ($this->records->findMany(array_map(strval(...), $ids), $rulebook) as $id => $stored) {
                $weights = $hits[$id] ?? [];
                $this->records->update($stored, $stored->record->with('vessels_hit', count($weights))->with(Record::beside('vessels_hit'), $weights), $rulebook->types['part'], $now);
            }
        }
        $this->database->commit();
        $bar->finish();
        $output->writeln("\nCounting what the tallies come to.");
        foreach (['vessel', 'area', 'company'] as $type) {
            foreach ($this->records->ids($type) as $id) {
                $this->desk->bringIntoLine($id);
                $this->entities->clear();
            }
        }
        $this->database->executeStatement('ANALYZE TABLE record, record_text, record_number');
    }

    /**
     * @return array{single: float, set: float, rows: int, queries: array<int, float>, laid_up: float, closed: int, memory: float} core milliseconds of one event alone and in an import, queries for a hundred events by size of the import, seconds and megabytes of a vessel laid up
     */
    private function engine(): array
    {
        // a fleet and a store of parts that have so many faults: one vessel has a few of the same part, not a thousand
        $types = $this->desk->rulebook()->types;
        $this->records->write(array_map(fn (int $n): array => [null, new Record('VB-'.$n, 'vessel', ['name' => 'Measured '.$n, 'in_service' => true, 'superintendent' => 'ines', 'home_quay' => 'Q-1']), $types['vessel']], range(0, 39)), $this->clock->now());
        $this->records->write(array_map(fn (int $n): array => [null, new Record('PB-'.$n, 'part', ['name' => 'Part '.$n, 'code' => sprintf('PB-%04d', $n), 'family' => 'PF-1', 'maker' => 'C-1']), $types['part']], range(0, 299)), $this->clock->now());
        $fault = fn (int $i): array => ['title' => 'Measured fault '.$i, 'vessel' => 'VB-'.($i % 40), 'area' => 'A-'.(1 + $i % 13), 'impact' => ['nothing', 'comfort', 'boarding', 'sailing'][$i % 4], 'hours_down' => $i % 50, 'part' => 'PB-'.($i * 7 % 299)];
        $singles = [];
        for ($i = 0; $i < 300; $i++) {
            $singles[] = $this->desk->create('fault', $fault($i), 'rafi')->run->ms();
            $this->entities->clear();
        }
        $queries = [];
        $set = [];
        foreach ([1_000, 10_000] as $size) {
            $columns = array_keys($fault(0));
            $import = new Import('fault', 'bench.csv', 'rafi', $this->clock->now(), $columns, array_combine($columns, $columns));
            $import->reaches(Stage::Running);
            $this->entities->persist($import);
            $this->entities->flush();
            $import->holds($this->rows->keep($import->id(), (function () use ($size, $fault): iterable {
                for ($i = 0; $i < $size; $i++) {
                    yield $i + 1 => array_values($fault($i));
                }
            })()));
            $this->entities->flush();
            $asked = fn (): int => (int) self::text($this->database->fetchNumeric("SHOW SESSION STATUS LIKE 'Questions'")[1] ?? '0');
            $before = $asked();
            $last = (int) self::text($this->database->fetchOne('SELECT MAX(id) FROM run'));
            ($this->importer)(new WorkOnImport($import->id()));
            $queries[$size] = ($asked() - $before) / $size * 100;
            $set = array_map(fn (mixed $ms): float => (float) self::text($ms), $this->database->fetchFirstColumn("SELECT ms FROM run WHERE id > ? AND type = 'fault' AND kind = 'created'", [$last]));
            $this->entities->clear();
        }
        sort($singles);
        sort($set);
        $now = $this->clock->now();
        $rulebook = $this->desk->rulebook();
        $this->records->write([[null, new Record('V-LAID', 'vessel', ['name' => 'Laid Up', 'in_service' => true, 'open_faults' => 5000]), $rulebook->types['vessel']]], $now);
        for ($i = 0; $i < 5000; $i += 500) {
            $this->records->write(array_map(fn (int $n): array => [null, new Record('FL-'.$n, 'fault', ['number' => 'FL-'.$n, 'title' => 'Scratch '.$n, 'vessel' => 'V-LAID', 'impact' => 'nothing', 'state' => 'logged', 'priority' => 'routine', 'progress' => 0, 'created_at' => '2027-01-01T00:00:00Z']), $rulebook->types['fault']], range($i + 1, $i + 500)), $now);
        }
        memory_reset_peak_usage();
        $begun = hrtime(true);
        $this->desk->change('V-LAID', ['in_service' => false], null, 'ines');
        $seconds = (hrtime(true) - $begun) / 1e9;
        $closed = (int) self::text($this->database->fetchOne("SELECT COUNT(*) FROM record WHERE id LIKE 'FL-%' AND state = 'closed'"));

        return ['single' => $singles[(int) (count($singles) / 2)], 'set' => $set[(int) (count($set) / 2)] ?? 0.0, 'rows' => count($set), 'queries' => $queries, 'laid_up' => $seconds, 'closed' => $closed, 'memory' => memory_get_peak_usage() / 1e6];
    }

    private static function text(mixed $value): string
    {
        return is_scalar($value) ? (string) $value : '';
    }

    /** @return list<float> milliseconds of one look-up each */
    private function lookUps(): array
    {
        $random = new Randomizer(new Mt19937(11));
        $times = [];
        for ($i = 0; $i < 1000; $i++) {
            $code = 'BEN-'.$random->getInt(1, self::PARTS);
            $begun = hrtime(true);
            $found = $this->records->findMany($this->records->with('part', 'code', [$code])[$code] ?? [], $this->desk->rulebook());
            $times[] = (hrtime(true) - $begun) / 1e6;
            count($found) === 1 ?: throw new \RuntimeException('The part is not found: '.$code);
        }

        return array_slice($times, 20);
    }

    /** @return array{big: list<float>, small: list<float>, right: bool} milliseconds of a change to a child of a parent with many and with few, and whether the tallies are right afterwards */
    private function tally(): array
    {
        $ids = ['big' => $this->records->referring('fault', 'vessel', ['V-BIG']), 'small' => $this->records->referring('fault', 'vessel', ['V-SMALL'])];
        $times = ['big' => [], 'small' => []];
        for ($i = 0; $i < 1000; $i++) {
            foreach ($ids as $size => $of) {
                $begun = hrtime(true);
                $this->desk->change($of[$i % self::SMALL], ['hours_down' => 1 + ($i * 7 + 3) % 80], null, 'rafi');
                $times[$size][] = (hrtime(true) - $begun) / 1e6;
                $this->entities->clear();
            }
        }
        $right = array_filter($this->desk->outOfLine(['V-BIG', 'V-SMALL'])) === [];

        return ['big' => array_slice($times['big'], 20), 'small' => array_slice($times['small'], 20), 'right' => $right];
    }
}
