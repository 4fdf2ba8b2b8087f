<?php

declare(strict_types=1);

namespace Sorvel\App\Desk;

use Psr\Clock\ClockInterface;
use Sorvel\App\Access\CurrentPerson;
use Sorvel\App\Http\Body;
use Sorvel\App\Http\IfMatch;
use Sorvel\App\Http\Problem;
use Sorvel\App\People\Role;
use Sorvel\Core\Model\RecordType;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\Routing\Attribute\Route;
use Symfony\Component\Security\Http\Attribute\IsGranted;

/** Reference data: agents read it, builders keep it. */
final class RegisterController
{
    public function __construct(private readonly Desk $desk, private readonly Records $records, private readonly CurrentPerson $person, private readonly ClockInterface $clock)
    {
    }

    #[Route('/api/registers', methods: ['GET'])]
    #[IsGranted(Role::AGENT)]
    public function registers(): JsonResponse
    {
        $counts = $this->records->counts();
        $registers = array_filter($this->desk->rulebook()->types, fn (RecordType $type): bool => ! $type->isTicket);

        return new JsonResponse(['registers' => array_values(array_map(fn (RecordType $type): array => ['key' => $type->key, 'title' => $type->title, 'records' => $counts[$type->key] ?? 0], $registers))]);
    }

    #[Route('/api/registers/{type}', methods: ['GET'])]
    #[IsGranted(Role::AGENT)]
    public function list(string $type, Request $request): JsonResponse
    {
        $this->register($type);
        $rulebook = $this->desk->rulebook();
        $page = $this->records->page(RecordQuery::of($request, $rulebook, $this->person->key(), $this->clock->now(), $type), $rulebook);

        return new JsonResponse([
            'records' => array_map(fn (StoredRecord $r): array => $r->toArray(), $page['records']),
            'names' => (object) $this->desk->names(array_map(fn (StoredRecord $r): array => $r->record->values, $page['records'])),
            'total' => $page['total'], 'next' => $page['next'],
        ]);
    }

    #[Route('/api/registers/{type}', methods: ['POST'])]
    #[IsGranted(Role::BUILDER)]
    public function create(string $type, Request $request): JsonResponse
    {
        $this->register($type);

        return new JsonResponse($this->saved($this->desk->create($type, Body::of($request)->map('values'), $this->person->key())), 201);
    }

    #[Route('/api/registers/{type}/{id}', methods: ['PATCH'])]
    #[IsGranted(Role::BUILDER)]
    public function change(string $type, string $id, Request $request): JsonResponse
    {
        $this->register($type);
        $this->mustBeIn($type, $id);

        return new JsonResponse($this->saved($this->desk->change($id, Body::of($request)->map('values'), IfMatch::version($request), $this->person->key())));
    }

    #[Route('/api/registers/{type}/{id}', methods: ['DELETE'])]
    #[IsGranted(Role::BUILDER)]
    public function delete(string $type, string $id, Request $request): JsonResponse
    {
        $this->register($type);
        $this->mustBeIn($type, $id);
        $this->desk->delete($id, IfMatch::version($request), $this->person->key());

        return new JsonResponse(null, 204);
    }

    private function mustBeIn(string $type, string $id): void
    {
        if ($this->records->find($id, $this->desk->rulebook())?->record->type !== $type) {
            throw new Problem(404, sprintf('There is no record "%s" in this register.', mb_strimwidth($id, 0, 40, '…')), 'Check the id.');
        }
    }

    /** @return array<string, mixed> */
    private function saved(SavedEvent $saved): array
    {
        return ['record' => $saved->stored->toArray(), 'names' => (object) $this->desk->names([$saved->stored->record->values])];
    }

    private function register(string $type): void
    {
        $found = $this->desk->rulebook()->types[$type] ?? null;
        if ($found === null || $found->isTicket) {
            throw new Problem(404, sprintf('There is no register "%s".', mb_strimwidth($type, 0, 40, '…')), $found === null ? 'Check the key.' : 'This is a ticket type.');
        }
    }
}
