<?php

declare(strict_types=1);

namespace Sorvel\App\Ask;

use Sorvel\App\Access\CurrentPerson;
use Sorvel\App\Desk\Desk;
use Sorvel\App\Desk\RecordQuery;
use Sorvel\App\Desk\Records;
use Sorvel\App\Desk\StoredRecord;
use Sorvel\App\Http\Body;
use Sorvel\App\Http\IfMatch;
use Sorvel\App\Http\Problem;
use Sorvel\App\Note\Notes;
use Sorvel\App\People\Role;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Role as DeskRole;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\Routing\Attribute\Route;
use Symfony\Component\Security\Http\Attribute\IsGranted;

/** The requester's side of the desk: their forms and their own tickets. Whoever uses it is held to what a requester may. */
#[IsGranted(Role::REQUESTER)]
final class AskController
{
    private const VEIL = 'Something that is not asked here stands in the way. The desk can help: write what you need in a few words.';

    public function __construct(private readonly Desk $desk, private readonly Records $records, private readonly Notes $notes, private readonly CurrentPerson $person)
    {
    }

    #[Route('/api/ask', methods: ['GET'])]
    public function read(): JsonResponse
    {
        $rulebook = $this->desk->rulebook();
        $page = $this->records->page(RecordQuery::ofRequester($this->person->key()), $rulebook);
        $shown = array_map(fn (StoredRecord $t): array => $this->shown($t), $page['records']);

        return new JsonResponse([
            'title' => $rulebook->title, 'timezone' => $rulebook->timezone, 'types' => Form::types($rulebook),
            'people' => array_values(array_map(fn ($p): array => ['key' => $p->key, 'name' => $p->name], $rulebook->people)),
            'teams' => array_values(array_map(fn ($t): array => ['key' => $t->key, 'name' => $t->name], $rulebook->teams)),
            'tickets' => $shown, 'names' => (object) $this->desk->names(array_map(fn (array $t): array => (array) $t['values'], $shown)), 'total' => $page['total'],
        ]);
    }

    #[Route('/api/ask', methods: ['POST'])]
    public function create(Request $request): JsonResponse
    {
        $body = Body::of($request);
        $type = $this->type($body->text('type'));
        $values = $body->map('values');
        foreach (array_keys($values) as $key) {
            if (! isset($type->fields[$key]) || ! Form::isSeen($type->fields[$key])) {
                throw new Problem(422, sprintf('The %s was not sent.', mb_strtolower($type->title)), 'Nothing was saved.', [['pointer' => '/values/'.$key, 'detail' => 'This is not asked for.']]);
            }
        }

        try {
            return new JsonResponse(['ticket' => $this->shown($this->desk->create($type->key, $values, $this->person->key(), role: DeskRole::Requester)->stored)], 201);
        } catch (Problem $problem) {
            throw $this->veiled($problem, $type);
        }
    }

    /** What stands in the way, and which guards are in force, as the form is filled in. */
    #[Route('/api/ask/dry-run', methods: ['POST'])]
    public function dryRun(Request $request): JsonResponse
    {
        $body = Body::of($request);
        $type = $this->type($body->text('type'));
        $outcome = $this->desk->dryRun(null, $type->key, $body->map('values'), $this->person->key(), DeskRole::Requester);
        $seen = fn (string $field): bool => isset($type->fields[$field]) && Form::isSeen($type->fields[$field]);
        $guards = is_array($outcome->trace['guards'] ?? null) ? $outcome->trace['guards'] : [];

        return new JsonResponse([
            'refused' => array_map(fn (array $r): array => ['field' => $seen($r['field']) ? $r['field'] : '', 'reason' => $seen($r['field']) ? $r['reason'] : self::VEIL], $outcome->refused),
            'guards' => array_values(array_map(fn (array $g): array => ['field' => $g['field'], 'effect' => $g['effect'], 'reason' => $g['reason']], array_filter($guards, fn (array $g): bool => $seen($g['field'])))),
        ]);
    }

    #[Route('/api/ask/choices', methods: ['POST'])]
    public function choices(Request $request): JsonResponse
    {
        $body = Body::of($request);
        $type = $this->type($body->text('type'));
        $field = $type->fields[$body->text('field')] ?? null;
        if ($field === null || ! Form::isAsked($field)) {
            throw new Problem(422, 'This is not asked for.', '', [['pointer' => '/field', 'detail' => 'There is no such question.']]);
        }

        return new JsonResponse($this->desk->choices(null, $type->key, $body->map('values'), $field->key, $body->textOrNull('q') ?? '', $this->person->key()));
    }

    #[Route('/api/ask/tickets/{id}', methods: ['GET'])]
    public function ticket(string $id): JsonResponse
    {
        return new JsonResponse($this->page($this->own($id)));
    }

    #[Route('/api/ask/tickets/{id}', methods: ['PATCH'])]
    public function change(string $id, Request $request): JsonResponse
    {
        $type = $this->desk->rulebook()->types[$this->own($id)->record->type];
        try {
            return new JsonResponse($this->page($this->desk->change($id, Body::of($request)->map('values'), IfMatch::version($request), $this->person->key(), role: DeskRole::Requester)->stored));
        } catch (Problem $problem) {
            throw $this->veiled($problem, $type);
        }
    }

    #[Route('/api/ask/tickets/{id}/notes', methods: ['POST'])]
    public function note(string $id, Request $request): JsonResponse
    {
        $this->own($id);

        return new JsonResponse($this->notes->add($id, 'requester', Body::of($request)->text('text'), $this->person->key())->toArray(), 201);
    }

    /** What stands in the way of a requester, without naming what they do not see; and no other side of a stale save. */
    private function veiled(Problem $problem, RecordType $type): Problem
    {
        if ($problem->getStatusCode() === 412) {
            return new Problem(412, 'Somebody changed this ticket since you opened it.', 'Nothing was overwritten. Look at it again.');
        }

        return $problem->said(function (array $error) use ($type): array {
            $field = $type->fields[(string) preg_replace('~^/values/~', '', $error['pointer'])] ?? null;

            return $field === null || Form::isSeen($field) ? $error : ['pointer' => '', 'detail' => self::VEIL];
        });
    }

    /** A ticket of whoever asks; that of another is not there. */
    private function own(string $id): StoredRecord
    {
        $ticket = $this->desk->ticket($id);
        if ($ticket->record->value('requester') !== $this->person->key()) {
            throw new Problem(404, sprintf('You have no ticket "%s".', mb_strimwidth($id, 0, 40, '…')), 'Check the number.');
        }

        return $ticket;
    }

    private function type(string $key): RecordType
    {
        $type = $this->desk->rulebook()->types[$key] ?? null;

        return $type?->isTicket === true ? $type : throw new Problem(422, 'There is no such form.', 'Nothing was saved.', [['pointer' => '/type', 'detail' => sprintf('"%s" is not a ticket type.', mb_strimwidth($key, 0, 40, '…'))]]);
    }

    /** @return array<string, mixed> */
    private function page(StoredRecord $ticket): array
    {
        $shown = $this->shown($ticket);

        return [
            'ticket' => $shown, 'names' => (object) $this->desk->names([(array) $shown['values']]), 'notes' => $this->notes->of($ticket->record->id, requesterOnly: true),
            'moves' => Form::moves($ticket->record, $this->desk->rulebook()->types[$ticket->record->type]),
        ];
    }

    /** @return array<string, mixed> */
    private function shown(StoredRecord $ticket): array
    {
        return [...$ticket->toArray(), 'values' => (object) Form::values($ticket->record, $this->desk->rulebook()->types[$ticket->record->type])];
    }
}
