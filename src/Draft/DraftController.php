<?php

declare(strict_types=1);

namespace Sorvel\App\Draft;

use Sorvel\App\Access\CurrentPerson;
use Sorvel\App\Desk\Records;
use Sorvel\App\Edition\Editions;
use Sorvel\App\Http\Body;
use Sorvel\App\Http\IfMatch;
use Sorvel\App\Http\Problem;
use Sorvel\App\People\Role;
use Sorvel\Core\Format\Writer;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;
use Symfony\Component\Security\Http\Attribute\IsGranted;

#[IsGranted(Role::BUILDER)]
final class DraftController
{
    public function __construct(
        private readonly Draft $draft,
        private readonly Editions $editions,
        private readonly Records $records,
        private readonly CurrentPerson $person,
    ) {
    }

    #[Route('/api/draft', methods: ['GET'])]
    public function read(): JsonResponse
    {
        $tree = $this->draft->tree();
        $parts = [];
        foreach ([PartKind::Types, PartKind::Tables, PartKind::Rules, PartKind::Guards, PartKind::Mirrors, PartKind::Samples] as $kind) {
            $parts[$kind->value] = array_map(fn (DraftPart $p): array => $p->toArray(), $this->draft->parts($kind));
        }

        return new JsonResponse([
            'desk' => $tree['desk'], 'title' => $tree['title'], 'timezone' => $tree['timezone'] ?? 'UTC',
            'edition' => $this->editions->currentNumber(), 'changes' => $this->draft->changes(),
            'people' => $tree['people'], 'teams' => array_map(fn (array $t): array => ['members' => [], ...$t], $tree['teams'] ?? []),
            ...$parts, 'tickets' => $this->records->countTickets(),
        ]);
    }

    #[Route('/api/draft/rules/order', methods: ['PUT'], priority: 1)]
    public function order(Request $request): JsonResponse
    {
        $this->draft->order(Body::of($request)->texts('keys'));

        return new JsonResponse(['changes' => $this->draft->changes()]);
    }

    #[Route('/api/draft/{kind}', methods: ['POST'])]
    public function add(string $kind, Request $request): JsonResponse
    {
        $body = Body::of($request);
        $part = $this->draft->add($this->kind($kind), $body->map('tree'), $body->integerOrNull('position'), $this->person->key());

        return new JsonResponse(['part' => $part->toArray(), 'changes' => $this->draft->changes()], 201);
    }

    #[Route('/api/draft/{kind}/{key}', methods: ['PUT'])]
    public function save(string $kind, string $key, Request $request): JsonResponse
    {
        $part = $this->draft->save($this->kind($kind), $key, Body::of($request)->map('tree'), IfMatch::version($request), $this->person->key());

        return new JsonResponse(['part' => $part->toArray(), 'changes' => $this->draft->changes()]);
    }

    #[Route('/api/draft/{kind}/{key}', methods: ['DELETE'])]
    public function delete(string $kind, string $key, Request $request): JsonResponse
    {
        $this->draft->delete($this->kind($kind), $key, IfMatch::version($request));

        return new JsonResponse(['changes' => $this->draft->changes()]);
    }

    #[Route('/api/rulebook.yaml', methods: ['GET'])]
    public function rulebook(): Response
    {
        return new Response(Writer::rulebook($this->draft->tree()), 200, ['Content-Type' => 'application/yaml', 'Content-Disposition' => 'attachment; filename="rulebook.yaml"']);
    }

    #[Route('/api/samples.yaml', methods: ['GET'])]
    public function samples(): Response
    {
        $samples = $this->draft->sampleTrees();

        return new Response(Writer::samples(['sorvel_samples' => 1, 'desk' => $this->draft->tree()['desk'], 'samples' => $samples]), 200, ['Content-Type' => 'application/yaml', 'Content-Disposition' => 'attachment; filename="samples.yaml"']);
    }

    private function kind(string $kind): PartKind
    {
        $found = PartKind::tryFrom($kind);

        return $found?->isEditable() === true ? $found : throw new Problem(404, sprintf('Parts of kind "%s" cannot be edited.', mb_strimwidth($kind, 0, 30, '…')), 'Kinds are types, rules, tables, guards, mirrors and samples.');
    }
}
