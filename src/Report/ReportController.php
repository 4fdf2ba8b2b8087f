<?php

declare(strict_types=1);

namespace Sorvel\App\Report;

use Psr\Clock\ClockInterface;
use Sorvel\App\Desk\Desk;
use Sorvel\App\Export\Sheet;
use Sorvel\App\Http\Problem;
use Sorvel\App\People\Role;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\FieldType;
use Sorvel\Core\Model\RecordType;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;
use Symfony\Component\Security\Http\Attribute\IsGranted;

/** Reports of one ticket type, as data for a page and as CSV. */
#[IsGranted(Role::AGENT)]
final class ReportController
{
    public function __construct(private readonly Desk $desk, private readonly Reports $reports, private readonly ClockInterface $clock)
    {
    }

    #[Route('/api/reports/{type}', methods: ['GET'])]
    public function read(string $type, Request $request): JsonResponse
    {
        $of = $this->type($type);
        [$rank, $percent, $by, $weeks] = $this->asked($of, $request);

        return new JsonResponse([
            'rank' => $rank?->key, 'percent' => $percent?->key, 'by' => $by?->key, 'weeks' => $weeks,
            'ranking' => $rank === null ? [] : $this->reports->ranking($of, $rank),
            'states' => $this->reports->states($of, $percent),
            'load' => array_map(fn (array $r): array => [...$r, 'of' => (object) $r['of']], $this->reports->load($of, $by)),
            'incoming' => array_map(fn (array $r): array => [...$r, 'of' => (object) $r['of']], $this->reports->weeks($of, $by, $weeks, $this->clock->now())),
        ]);
    }

    #[Route('/api/reports/{type}/{report}.csv', methods: ['GET'])]
    public function csv(string $type, string $report, Request $request): Response
    {
        $of = $this->type($type);
        [$rank, $percent, $by, $weeks] = $this->asked($of, $request);
        $options = $by === null ? [] : array_map(fn ($o): string => $o->label, $by->options);
        $people = $this->desk->rulebook()->people;
        $each = fn (array $counts): array => array_map(fn (string $key): int => $counts[$key] ?? 0, array_map(strval(...), [...array_keys($options), '']));
        $rows = match ($report) {
            'ranking' => [['Id', 'Title', 'State', 'Assignee', $rank->label ?? 'Value'], ...($rank === null ? [] : array_map(fn (array $r): array => [$r['id'], $r['name'], $of->states[$r['state']]->label ?? $r['state'], $people[$r['assignee'] ?? '']->name ?? '', $r['value']], $this->reports->ranking($of, $rank)))],
            'states' => [['State', 'Tickets', ...($percent === null ? [] : ['Average '.mb_strtolower($percent->label)])], ...array_map(fn (array $r): array => [$r['label'], $r['tickets'], ...($percent === null ? [] : [$r['average'] ?? ''])], $this->reports->states($of, $percent))],
            'load' => [['Assignee', ...array_values($options), 'None', 'All'], ...array_map(fn (array $r): array => [$people[$r['assignee'] ?? '']->name ?? 'Nobody', ...$each($r['of']), $r['total']], $this->reports->load($of, $by))],
            'incoming' => [['Week from', ...array_values($options), 'None', 'All'], ...array_map(fn (array $r): array => [$r['week'], ...$each($r['of']), $r['total']], $this->reports->weeks($of, $by, $weeks, $this->clock->now()))],
            default => throw new Problem(404, 'There is no such report.', 'Reports are ranking, states, load and incoming.'),
        };

        return new Response(self::csvText($rows), 200, ['Content-Type' => 'text/csv; charset=UTF-8', 'Content-Disposition' => sprintf('attachment; filename="%s-%s.csv"', $type, $report)]);
    }

    /** @param  list<list<string|int|float>>  $rows */
    private static function csvText(array $rows): string
    {
        $out = fopen('php://memory', 'w+') ?: throw new \RuntimeException('There is no memory for the file.');
        foreach ($rows as $row) {
            fputcsv($out, array_map(fn (string|int|float $cell): string => Sheet::harmless((string) $cell), $row), escape: '');
        }
        rewind($out);

        return (string) stream_get_contents($out);
    }

    /** @return array{Field|null, Field|null, Field|null, int} what to rank by, the percentage of the states, what to part by, how many weeks */
    private function asked(RecordType $type, Request $request): array
    {
        $measures = Reports::measures($type);
        $percents = array_values(array_filter($measures, fn (Field $f): bool => $f->type === FieldType::Percent));
        $choices = array_values(array_filter($type->fields, fn (Field $f): bool => $f->type === FieldType::Choice && $f->active));
        $pick = function (string $parameter, array $among, ?Field $otherwise) use ($request): ?Field {
            $key = $request->query->getString($parameter);
            foreach ($among as $field) {
                if ($field->key === $key) {
                    return $field;
                }
            }

            return $key === '' ? $otherwise : throw new Problem(422, 'The report cannot be made like this.', '', [['pointer' => '/'.$parameter, 'detail' => sprintf('"%s" is none of: %s.', mb_strimwidth($key, 0, 40, '…'), implode(', ', array_column($among, 'key')))]]);
        };
        // what the desk decides by rules tells more than what people enter
        $decided = [];
        foreach ($this->desk->rulebook()->rulesOn($type->key) as $rule) {
            foreach ($rule->immediate as $change) {
                $decided[$change->field] = true;
            }
        }
        $first = fn (array $fields): ?Field => array_values(array_filter($fields, fn (Field $f): bool => isset($decided[$f->key]) && $f->type !== FieldType::Percent))[0] ?? $fields[0] ?? null;
        $weeks = $request->query->getInt('weeks', 12);
        if ($weeks < 1 || $weeks > 104) {
            throw new Problem(422, 'The report cannot be made like this.', '', [['pointer' => '/weeks', 'detail' => 'Between 1 and 104 weeks.']]);
        }

        return [$pick('rank', $measures, $first($measures)), $percents[0] ?? null, $pick('by', $choices, $first($choices)), $weeks];
    }

    private function type(string $key): RecordType
    {
        $type = $this->desk->rulebook()->types[$key] ?? null;

        return $type?->isTicket === true ? $type : throw new Problem(404, sprintf('There is no ticket type "%s".', mb_strimwidth($key, 0, 40, '…')));
    }
}
