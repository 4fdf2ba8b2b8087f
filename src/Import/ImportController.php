<?php

declare(strict_types=1);

namespace Sorvel\App\Import;

use Doctrine\ORM\EntityManagerInterface;
use Psr\Clock\ClockInterface;
use Sorvel\App\Access\CurrentPerson;
use Sorvel\App\Desk\Desk;
use Sorvel\App\Http\Body;
use Sorvel\App\Http\Problem;
use Sorvel\App\People\Role;
use Sorvel\Core\Model\RecordType;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\Messenger\MessageBusInterface;
use Symfony\Component\Routing\Attribute\Route;
use Symfony\Component\Security\Http\Attribute\IsGranted;

/** Files of records: read, matched, tried, run and undone. The long work is the worker's. */
#[IsGranted(Role::BUILDER)]
final class ImportController
{
    private const MOST_BYTES = 64_000_000;

    private const MOST_JSON = 16_000_000;

    public function __construct(
        private readonly EntityManagerInterface $entities,
        private readonly ImportRows $rows,
        private readonly Desk $desk,
        private readonly CurrentPerson $person,
        private readonly ClockInterface $clock,
        private readonly MessageBusInterface $bus,
    ) {
    }

    #[Route('/api/imports', methods: ['GET'])]
    public function list(): JsonResponse
    {
        $imports = $this->entities->getRepository(Import::class)->findBy([], ['id' => 'DESC'], 50);

        return new JsonResponse(['imports' => array_map($this->shown(...), $imports)]);
    }

    #[Route('/api/imports', methods: ['POST'])]
    public function read(Request $request): JsonResponse
    {
        $type = $this->type($request->query->getString('type'));
        $name = mb_strimwidth($request->query->getString('name', 'a file'), 0, 200, '…');
        $body = $request->getContent(true);
        $size = fstat($body)['size'] ?? 0;
        if ($size > self::MOST_BYTES) {
            throw new Problem(413, 'The file is larger than 64 MB.', 'Part it into several files.');
        }
        try {
            if ($request->getContentTypeFormat() === 'json') {
                $size <= self::MOST_JSON ?: throw new ImportError('A JSON file may have 16 MB.', 'Part it, or send it as CSV.');
                $source = new JsonRows((string) stream_get_contents($body));
            } else {
                $source = new CsvRows($body, $request->query->getString('encoding') ?: null);
            }
            $import = new Import($type->key, $name, $this->person->key(), $this->clock->now(), $source->columns, self::guess($source->columns, $type));
            $this->entities->wrapInTransaction(function () use ($import, $source): void {
                $this->entities->persist($import);
                $this->entities->flush();
                $count = $this->rows->keep($import->id(), $source->rows());
                $count > 0 ?: throw new ImportError('The file names columns and holds no rows.', 'Each row after the first is a record.');
                $import->holds($count);
            });
        } catch (ImportError $error) {
            throw new Problem(422, $error->getMessage(), $error->mend, [['pointer' => '', 'detail' => $error->getMessage()]]);
        }

        return new JsonResponse($this->shown($import), 201);
    }

    #[Route('/api/imports/{number}', methods: ['GET'], requirements: ['number' => '\d{1,9}'])]
    public function show(int $number): JsonResponse
    {
        return new JsonResponse($this->shown($this->find($number)));
    }

    #[Route('/api/imports/{number}/rows', methods: ['GET'], requirements: ['number' => '\d{1,9}'])]
    public function rows(int $number, Request $request): JsonResponse
    {
        $import = $this->find($number);
        $fate = $request->query->getString('fate') ?: null;
        if ($fate !== null && ! in_array($fate, ['create', 'update', 'same', 'refused', 'kept'], true)) {
            throw new Problem(422, 'There is no such fate.', '', [['pointer' => '/fate', 'detail' => 'It is one of create, update, same, refused, kept.']]);
        }
        $rows = $this->rows->page($import->id(), $fate, $request->query->getInt('after'), 101);

        return new JsonResponse(['rows' => array_slice($rows, 0, 100), 'next' => count($rows) > 100 ? $rows[99]['number'] : null]);
    }

    /** What is done next: match, try, run, stop, undo. */
    #[Route('/api/imports/{number}', methods: ['POST'], requirements: ['number' => '\d{1,9}'])]
    public function act(int $number, Request $request): JsonResponse
    {
        $import = $this->find($number);
        $body = Body::of($request);
        $act = $body->text('act');
        $allowed = match ($act) {
            'try' => [Stage::Read, Stage::Tried, Stage::Stopped],
            'run' => [Stage::Tried, Stage::Stopped],
            'stop' => [Stage::Trying, Stage::Running, Stage::Undoing],
            'undo' => [Stage::Done, Stage::Stopped],
            default => throw new Problem(422, 'This cannot be done with an import.', '', [['pointer' => '/act', 'detail' => 'It is one of try, run, stop, undo.']]),
        };
        if (! in_array($import->stage(), $allowed, true)) {
            throw new Problem(409, sprintf('This import is %s; it cannot be %s now.', $import->stage()->value, ['try' => 'tried', 'run' => 'run', 'stop' => 'stopped', 'undo' => 'undone'][$act]), 'Look at it again; somebody else may have gone on with it.');
        }
        if ($act === 'try') {
            $this->match($import, $body);
        }
        $import->reaches(['try' => Stage::Trying, 'run' => Stage::Running, 'stop' => Stage::Stopped, 'undo' => Stage::Undoing][$act]);
        $this->entities->flush();
        if ($act !== 'stop') {
            $this->bus->dispatch(new WorkOnImport($import->id()));
        }

        return new JsonResponse($this->shown($import));
    }

    private function match(Import $import, Body $body): void
    {
        if ($this->rows->counts($import->id())['done'] > 0 && $import->stage() === Stage::Stopped) {
            throw new Problem(409, 'Some of its rows are done already.', 'Run the rest, or undo what was done first.');
        }
        $type = $this->type($import->type());
        $errors = [];
        $fields = [];
        foreach ($body->map('matching') as $column => $field) {
            $known = is_string($field) ? $type->fields[$field] ?? null : null;
            $detail = match (true) {
                ! in_array($column, $import->columns(), true) => 'The file has no such column.',
                $field === 'id' => null,
                $known === null => 'There is no such field.',
                $known->fixed => sprintf('%s is kept by the desk itself.', $known->label),
                ! $known->active => sprintf('%s is retired.', $known->label),
                default => null,
            };
            if ($detail === null && is_string($field) && isset($fields[$field])) {
                $detail = sprintf('"%s" goes there already.', $fields[$field]);
            }
            if ($detail !== null) {
                $errors[] = ['pointer' => '/matching/'.$column, 'detail' => $detail];
            }
            $fields[is_string($field) ? $field : ''] = (string) $column;
        }
        $key = $body->textOrNull('key');
        if ($key !== null && ! isset($fields[$key])) {
            $errors[] = ['pointer' => '/key', 'detail' => 'The key must be one of the matched fields.'];
        }
        if ($fields === []) {
            $errors[] = ['pointer' => '/matching', 'detail' => 'Match at least one column to a field.'];
        }
        if ($errors !== []) {
            throw new Problem(422, 'The columns do not match.', 'Nothing was begun.', $errors);
        }
        $this->rows->forget($import->id());
        /** @var array<string, string> $matching */
        $matching = $body->map('matching');
        $import->match($matching, $key);
    }

    /**
     * By key or label, letters large or small.
     *
     * @param  list<string>  $columns
     * @return array<string, string>
     */
    private static function guess(array $columns, RecordType $type): array
    {
        $plain = fn (string $words): string => (string) preg_replace('~[^\p{L}\p{N}]+~u', '', mb_strtolower($words));
        $matching = [];
        foreach ($columns as $column) {
            if ($plain($column) === 'id' || ($type->isTicket && $plain($column) === 'number')) {
                $matching[$column] = 'id';
            }
            foreach ($type->fields as $field) {
                if (! isset($matching[$column]) && ! $field->fixed && $field->active && ! in_array($field->key, $matching, true) && in_array($plain($column), [$plain($field->key), $plain($field->label)], true)) {
                    $matching[$column] = $field->key;
                }
            }
        }

        return $matching;
    }

    private function find(int $number): Import
    {
        return $this->entities->find(Import::class, $number) ?? throw new Problem(404, sprintf('There is no import %d.', $number));
    }

    private function type(string $key): RecordType
    {
        return $this->desk->rulebook()->types[$key] ?? throw new Problem(422, 'There is no such record type.', 'Nothing was read.', [['pointer' => '/type', 'detail' => sprintf('"%s" is not a record type.', mb_strimwidth($key, 0, 40, '…'))]]);
    }

    /** @return array<string, mixed> */
    private function shown(Import $import): array
    {
        return [...$import->toArray(), 'counts' => $this->rows->counts($import->id())];
    }
}
