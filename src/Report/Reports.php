<?php

declare(strict_types=1);

namespace Sorvel\App\Report;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Sorvel\App\Desk\RecordIndex;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\FieldType;
use Sorvel\Core\Model\RecordType;

/** What people look at: tickets by score, states with progress, who has how much, and how much came in. */
final class Reports
{
    public function __construct(private readonly Connection $database, private readonly RecordIndex $index)
    {
    }

    /** @return list<array{id: string, name: string, state: string, assignee: string|null, value: float}> open tickets, the highest first, at most 100 */
    public function ranking(RecordType $type, Field $by): array
    {
        return array_map(fn (array $r): array => ['id' => self::text($r['id']), 'name' => self::text($r['name']), 'state' => self::text($r['state']), 'assignee' => $r['assignee'] === null ? null : self::text($r['assignee']), 'value' => (float) self::text($r['value'])], $this->database->fetchAllAssociative(
            'SELECT r.id, r.name, r.state, r.assignee, i.value FROM record_number i JOIN record r ON r.n = i.n WHERE i.kind = ? AND i.slot = ? AND r.state IN (?) ORDER BY i.value DESC, i.n LIMIT 100',
            [$this->index->word($type->key), $this->index->word($by->key), self::open($type)], [2 => ArrayParameterType::STRING]));
    }

    /** @return list<array{state: string, label: string, open: bool, tickets: int, average: float|null}> in the order of the states, with the average of a percentage */
    public function states(RecordType $type, ?Field $percent): array
    {
        $counts = $this->database->fetchAllAssociativeIndexed(
            'SELECT r.state, COUNT(*) AS tickets, AVG(i.value) AS average FROM record r LEFT JOIN record_number i ON i.n = r.n AND i.slot = ? WHERE r.type = ? GROUP BY r.state', [$this->slot($percent), $type->key]);
        $rows = [];
        foreach ($type->states as $state) {
            $row = $counts[$state->key] ?? ['tickets' => 0, 'average' => null];
            $rows[] = ['state' => $state->key, 'label' => $state->label, 'open' => $state->open, 'tickets' => (int) self::text($row['tickets']), 'average' => $percent === null || $row['average'] === null ? null : round((float) self::text($row['average']), 1)];
        }

        return $rows;
    }

    /** @return list<array{assignee: string|null, of: array<string, int>, total: int}> open tickets by assignee and option, most first; the option '' is none */
    public function load(RecordType $type, ?Field $by): array
    {
        $rows = [];
        foreach ($this->database->fetchAllAssociative(
            'SELECT r.assignee, i.value AS opt, COUNT(*) AS n FROM record r LEFT JOIN record_text i ON i.n = r.n AND i.slot = ? WHERE r.type = ? AND r.state IN (?) GROUP BY r.assignee, i.value',
            [$this->slot($by), $type->key, self::open($type)], [2 => ArrayParameterType::STRING]) as $row) {
            $who = $row['assignee'] === null ? '' : self::text($row['assignee']);
            $rows[$who] ??= ['assignee' => $who === '' ? null : $who, 'of' => [], 'total' => 0];
            $rows[$who]['of'][self::text($row['opt'])] = (int) self::text($row['n']);
            $rows[$who]['total'] += (int) self::text($row['n']);
        }
        usort($rows, fn (array $a, array $b): int => $b['total'] <=> $a['total'] ?: $a['assignee'] <=> $b['assignee']);

        return $rows;
    }

    /** @return list<array{week: string, of: array<string, int>, total: int}> tickets that came in, by week (its Monday, in UTC) and the option that they have now; weeks without are there too */
    public function weeks(RecordType $type, ?Field $by, int $weeks, \DateTimeImmutable $now): array
    {
        $monday = $now->setTimezone(new \DateTimeZone('UTC'))->modify('monday this week')->setTime(0, 0);
        $rows = [];
        for ($i = $weeks - 1; $i >= 0; $i--) {
            $week = $monday->modify("-$i weeks")->format('Y-m-d');
            $rows[$week] = ['week' => $week, 'of' => [], 'total' => 0];
        }
        foreach ($this->database->fetchAllAssociative(
            'SELECT DATE_SUB(DATE(r.created_at), INTERVAL WEEKDAY(r.created_at) DAY) AS week, i.value AS opt, COUNT(*) AS n FROM record r LEFT JOIN record_text i ON i.n = r.n AND i.slot = ? WHERE r.type = ? AND r.created_at >= ? GROUP BY week, i.value',
            [$this->slot($by), $type->key, (string) array_key_first($rows)]) as $row) {
            $week = self::text($row['week']);
            if (isset($rows[$week])) {
                $rows[$week]['of'][self::text($row['opt'])] = (int) self::text($row['n']);
                $rows[$week]['total'] += (int) self::text($row['n']);
            }
        }

        return array_values($rows);
    }

    /** @return list<Field> numbers and percentages, by which tickets can be ranked */
    public static function measures(RecordType $type): array
    {
        return array_values(array_filter($type->fields, fn (Field $f): bool => $f->active && in_array($f->behavesAs(), [FieldType::Number, FieldType::Percent], true)));
    }

    private function slot(?Field $field): int
    {
        return $field === null ? 0 : $this->index->word($field->key);
    }

    /** @return list<string> */
    private static function open(RecordType $type): array
    {
        return array_map(strval(...), array_keys(array_filter($type->states, fn ($s): bool => $s->open)));
    }

    private static function text(mixed $value): string
    {
        return is_scalar($value) ? (string) $value : '';
    }
}
