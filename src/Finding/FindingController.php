<?php

declare(strict_types=1);

namespace Sorvel\App\Finding;

use Doctrine\ORM\EntityManagerInterface;
use Psr\Clock\ClockInterface;
use Sorvel\App\Access\CurrentPerson;
use Sorvel\App\Http\Body;
use Sorvel\App\Http\Problem;
use Sorvel\App\People\Role;
use Sorvel\Core\Finding\Finding;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\Routing\Attribute\Route;
use Symfony\Component\Security\Http\Attribute\IsGranted;

/** Findings about the draft: listed, accepted with a reason, opened again. */
#[IsGranted(Role::BUILDER)]
final class FindingController
{
    private const MOST = 1000;

    public function __construct(private readonly DraftFindings $findings, private readonly EntityManagerInterface $entities, private readonly CurrentPerson $person, private readonly ClockInterface $clock)
    {
    }

    #[Route('/api/findings', methods: ['GET'])]
    public function list(): JsonResponse
    {
        $accepted = $this->findings->accepted();

        return new JsonResponse(['findings' => array_map(fn (Finding $f): array => [...$f->toArray(), 'accepted' => isset($accepted[$f->id]) ? $accepted[$f->id]->toArray() : null], $this->findings->all())]);
    }

    #[Route('/api/findings/{id}/accepted', methods: ['PUT'], requirements: ['id' => '[a-zA-Z0-9_-]{1,40}'])]
    public function accept(string $id, Request $request): JsonResponse
    {
        $reason = trim(Body::of($request)->text('reason'));
        if ($reason === '' || mb_strlen($reason) > self::MOST) {
            throw new Problem(422, 'Accepting a finding needs a reason.', 'Say why it is meant so, for whoever looks at it in a year.', [['pointer' => '/reason', 'detail' => $reason === '' ? 'It must not be empty.' : 'At most 1,000 characters fit.']]);
        }
        if (array_filter($this->findings->all(), fn (Finding $f): bool => $f->id === $id) === []) {
            throw new Problem(404, 'There is no such finding.', 'The draft may have changed since it was listed; look again.');
        }
        $by = (string) $this->person->key();
        $one = $this->entities->find(AcceptedFinding::class, $id);
        if ($one === null) {
            $one = new AcceptedFinding($id, $reason, $by, $this->clock->now());
            $this->entities->persist($one);
        } else {
            $one->because($reason, $by, $this->clock->now());
        }
        $this->entities->flush();

        return new JsonResponse($one->toArray());
    }

    #[Route('/api/findings/{id}/accepted', methods: ['DELETE'], requirements: ['id' => '[a-zA-Z0-9_-]{1,40}'])]
    public function reopen(string $id): JsonResponse
    {
        $one = $this->entities->find(AcceptedFinding::class, $id) ?? throw new Problem(404, 'This finding has not been accepted.');
        $this->entities->remove($one);
        $this->entities->flush();

        return new JsonResponse(null, 204);
    }
}
