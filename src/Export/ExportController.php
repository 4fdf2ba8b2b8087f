<?php

declare(strict_types=1);

namespace Sorvel\App\Export;

use Psr\Clock\ClockInterface;
use Sorvel\App\Access\CurrentPerson;
use Sorvel\App\Desk\Desk;
use Sorvel\App\Desk\DoctrineStore;
use Sorvel\App\Desk\RecordQuery;
use Sorvel\App\Desk\Records;
use Sorvel\App\Http\Problem;
use Sorvel\App\People\Role;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Rulebook;
use Sorvel\Core\Model\Viewer;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\StreamedResponse;
use Symfony\Component\Routing\Attribute\Route;
use Symfony\Component\Security\Http\Attribute\IsGranted;

/** A list as a file, however long: read and sent a few hundred records at a time. */
#[IsGranted(Role::AGENT)]
final class ExportController
{
    private const PAGE = 500;

    public function __construct(private readonly Desk $desk, private readonly Records $records, private readonly CurrentPerson $person, private readonly ClockInterface $clock)
    {
    }

    #[Route('/api/export/{type}.{format}', methods: ['GET'], requirements: ['format' => 'csv|json'])]
    public function export(string $type, string $format, Request $request): StreamedResponse
    {
        $rulebook = $this->desk->rulebook();
        $of = $rulebook->types[$type] ?? null;
        if ($of === null && $type !== 'tickets') {
            throw new Problem(404, sprintf('There is no record type "%s".', mb_strimwidth($type, 0, 40, '…')));
        }
        if ($of !== null && $of->isTicket) {
            $request->query->set('type', $type);
        }
        $request->query->remove('cursor');
        $query = RecordQuery::of($request, $rulebook, $this->person->key(), $this->clock->now(), $of === null || $of->isTicket ? null : $type);
        $columns = $this->columns($request->query->getString('columns'), $of, $rulebook);
        $rows = $this->rows($query, $rulebook);

        return new StreamedResponse(
            fn () => $format === 'csv' ? $this->csv($rows, $columns, $rulebook) : $this->json($rows, $columns),
            200,
            ['Content-Type' => $format === 'csv' ? 'text/csv; charset=UTF-8' : 'application/json', 'Content-Disposition' => sprintf('attachment; filename="%s.%s"', $type, $format), 'X-Accel-Buffering' => 'no'],
        );
    }

    /** @return array<string, string> labels by field key, the id first */
    private function columns(string $wanted, ?RecordType $type, Rulebook $rulebook): array
    {
        $fields = [];
        foreach ($type === null ? array_filter($rulebook->types, fn (RecordType $t): bool => $t->isTicket) : [$type] as $each) {
            foreach ($each->fields as $field) {
                $fields[$field->key] ??= $field->label;
            }
        }
        unset($fields['number']);
        $columns = ['id' => 'Id'];
        foreach ($wanted === '' ? array_keys($fields) : explode(',', $wanted) as $key) {
            if ($key === 'number' || $key === 'id') {
                continue;
            }
            $columns[(string) $key] = $fields[$key] ?? throw new Problem(422, 'The file cannot be made like this.', '', [['pointer' => '/columns', 'detail' => sprintf('There is no field "%s".', mb_strimwidth((string) $key, 0, 40, '…'))]]);
        }

        return $columns;
    }

    /** @return iterable<list<Record>> a page at a time */
    private function rows(RecordQuery $query, Rulebook $rulebook): iterable
    {
        $cursor = null;
        do {
            $page = $this->records->page($query->page($cursor, self::PAGE), $rulebook, counted: false);
            yield array_map(fn ($stored): Record => $stored->record, $page['records']);
            $cursor = $page['next'];
        } while ($cursor !== null);
    }

    /**
     * @param  iterable<list<Record>>  $pages
     * @param  array<string, string>  $columns
     */
    private function csv(iterable $pages, array $columns, Rulebook $rulebook): void
    {
        $out = fopen('php://output', 'w');
        if ($out === false) {
            return;
        }
        fputcsv($out, $columns, escape: '');
        foreach ($pages as $records) {
            $store = new DoctrineStore($this->records, $rulebook, $this->clock->now(), writes: false);
            $this->fetchReferred($records, $store, $rulebook);
            $viewer = new Viewer($rulebook, $store);
            foreach ($records as $record) {
                $fields = $rulebook->types[$record->type]->fields;
                fputcsv($out, array_map(fn (string $key): string => match (true) {
                    $key === 'id' => $record->id,
                    ! isset($fields[$key]) || $record->value($key) === null => '',
                    default => Sheet::harmless($fields[$key]->kind->words($record->value($key), $fields[$key], $viewer)),
                }, array_keys($columns)), escape: '');
            }
            flush();
        }
        fclose($out);
    }

    /**
     * References of a page are fetched as a set.
     *
     * @param  list<Record>  $records
     */
    private function fetchReferred(array $records, DoctrineStore $store, Rulebook $rulebook): void
    {
        $ids = [];
        foreach ($records as $record) {
            foreach ($rulebook->types[$record->type]->fields as $field) {
                if ($field->to !== null) {
                    array_push($ids, ...array_filter((array) $record->value($field->key), is_string(...)));
                }
            }
        }
        $store->findMany(array_values(array_unique($ids)));
    }

    /**
     * @param  iterable<list<Record>>  $pages
     * @param  array<string, string>  $columns
     */
    private function json(iterable $pages, array $columns): void
    {
        $between = "[\n";
        foreach ($pages as $records) {
            foreach ($records as $record) {
                $values = array_intersect_key(Record::json($record->values), $columns);
                echo $between, json_encode((object) ['id' => $record->id, ...$values], JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES);
                $between = ",\n";
            }
            flush();
        }
        echo $between === "[\n" ? '[' : '', "]\n";
    }
}
