<?php

declare(strict_types=1);

namespace Sorvel\App\Desk;

use Doctrine\ORM\EntityManagerInterface;
use Sorvel\App\Access\CurrentPerson;
use Sorvel\App\Draft\KeyChanges;
use Sorvel\App\Http\Body;
use Sorvel\App\Http\IfMatch;
use Sorvel\App\Http\Problem;
use Sorvel\App\People\Role;
use Sorvel\App\Run\Run;
use Sorvel\Core\Engine\Outcome;
use Sorvel\Core\Engine\RuleStatus;
use Sorvel\Core\Model\Record;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\Routing\Attribute\Route;
use Symfony\Component\Security\Http\Attribute\IsGranted;

#[IsGranted(Role::AGENT)]
final class TicketController
{
    public function __construct(
        private readonly Desk $desk,
        private readonly Records $records,
        private readonly CurrentPerson $person,
        private readonly EntityManagerInterface $entities,
        private readonly KeyChanges $keyChanges,
    ) {
    }

    #[Route('/api/tickets', methods: ['GET'])]
    public function list(Request $request): JsonResponse
    {
        $rulebook = $this->desk->rulebook();
        $page = $this->records->page(RecordQuery::of($request, $rulebook), $rulebook);
        $tickets = array_map(fn (StoredRecord $t): array => $t->toArray(), $page['records']);

        return new JsonResponse(['tickets' => $tickets, 'names' => (object) $this->desk->names(array_map(fn (StoredRecord $t): array => $t->record->values, $page['records'])), 'total' => $page['total'], 'next' => $page['next']]);
    }

    #[Route('/api/tickets', methods: ['POST'])]
    public function create(Request $request): JsonResponse
    {
        $body = Body::of($request);
        $type = $body->text('type');
        if (($this->desk->rulebook()->types[$type] ?? null)?->isTicket === false) {
            throw new Problem(422, 'This is a register, not a ticket type.', 'Nothing was saved.', [['pointer' => '/type', 'detail' => sprintf('"%s" is a register.', $type)]]);
        }

        return new JsonResponse($this->saved($this->desk->create($type, $body->map('values'), $this->person->key())), 201);
    }

    #[Route('/api/tickets/dry-run', methods: ['POST'], priority: 1)]
    public function dryRunNew(Request $request): JsonResponse
    {
        $body = Body::of($request);

        return new JsonResponse($this->shown($this->desk->dryRun(null, $body->text('type'), $body->map('values'), $this->person->key())));
    }

    #[Route('/api/tickets/choices', methods: ['POST'], priority: 1)]
    public function choices(Request $request): JsonResponse
    {
        $body = Body::of($request);
        $id = $body->textOrNull('id');
        if ($id !== null) {
            $this->desk->ticket($id);
        }

        return new JsonResponse($this->desk->choices($id, $body->textOrNull('type'), $body->map('values'), $body->text('field'), $body->textOrNull('q') ?? '', $this->person->key()));
    }

    #[Route('/api/tickets/{id}', methods: ['GET'])]
    public function read(string $id): JsonResponse
    {
        $ticket = $this->desk->ticket($id);
        $runs = $this->entities->getRepository(Run::class)->findBy(['record' => $id], ['id' => 'DESC'], 100);
        $history = array_map(fn (Run $r): array => [...$r->toArray(), 'changes' => $this->keyChanges->upToDate($r->changes(), $r->type(), $r->edition())], $runs);

        return new JsonResponse(['ticket' => $ticket->toArray(), 'names' => (object) $this->desk->names([$ticket->record->values, ...array_column($history, 'changes')]), 'history' => $history]);
    }

    #[Route('/api/tickets/{id}', methods: ['PATCH'])]
    public function change(string $id, Request $request): JsonResponse
    {
        $this->desk->ticket($id);

        return new JsonResponse($this->saved($this->desk->change($id, Body::of($request)->map('values'), IfMatch::version($request), $this->person->key())));
    }

    #[Route('/api/tickets/{id}/dry-run', methods: ['POST'])]
    public function dryRun(string $id, Request $request): JsonResponse
    {
        $this->desk->ticket($id);

        return new JsonResponse($this->shown($this->desk->dryRun($id, null, Body::of($request)->map('values'), $this->person->key())));
    }

    /** @return array<string, mixed> */
    private function saved(SavedEvent $saved): array
    {
        return ['ticket' => $saved->stored->toArray(), 'run' => $saved->run->toArray()];
    }

    /** @return array<string, mixed> */
    private function shown(Outcome $outcome): array
    {
        return [
            'refused' => $outcome->refused,
            'rules' => (object) array_map(fn (RuleStatus $s): string => $s->value, $outcome->rules),
            'changes' => $outcome->changes,
            'problems' => $outcome->problems,
            'values' => (object) Record::json($outcome->record->values),
            'trace' => $outcome->trace,
            'names' => (object) $this->desk->names([$outcome->record->values, ...$outcome->changes]),
        ];
    }
}
