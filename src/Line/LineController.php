<?php

declare(strict_types=1);

namespace Sorvel\App\Line;

use Doctrine\ORM\EntityManagerInterface;
use Psr\Clock\ClockInterface;
use Sorvel\App\Access\CurrentPerson;
use Sorvel\App\Desk\Desk;
use Sorvel\App\Desk\Records;
use Sorvel\App\Http\Body;
use Sorvel\App\Http\Problem;
use Sorvel\App\People\Role;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\Messenger\MessageBusInterface;
use Symfony\Component\Routing\Attribute\Route;
use Symfony\Component\Security\Http\Attribute\IsGranted;

#[IsGranted(Role::BUILDER)]
final class LineController
{
    public function __construct(
        private readonly EntityManagerInterface $entities,
        private readonly Desk $desk,
        private readonly Records $records,
        private readonly CurrentPerson $person,
        private readonly ClockInterface $clock,
        private readonly MessageBusInterface $bus,
    ) {
    }

    #[Route('/api/checks', methods: ['GET'])]
    public function last(): JsonResponse
    {
        $check = $this->entities->getRepository(LineCheck::class)->findOneBy([], ['id' => 'DESC']);

        return new JsonResponse(['check' => $check?->toArray()]);
    }

    #[Route('/api/checks', methods: ['POST'])]
    public function begin(Request $request): JsonResponse
    {
        $mends = Body::of($request)->flag('mends');
        if ($this->entities->getRepository(LineCheck::class)->findOneBy([], ['id' => 'DESC'])?->isRunning() === true) {
            throw new Problem(409, 'A check is under way.', 'Wait for it, or stop it.');
        }
        $counts = array_intersect_key($this->records->counts(), array_flip(LineChecker::types($this->desk->rulebook())));
        $check = new LineCheck($mends, $this->person->key(), $this->clock->now(), (int) array_sum($counts));
        $this->entities->persist($check);
        $this->entities->flush();
        $this->bus->dispatch(new WalkOverRecords($check->id()));

        return new JsonResponse(['check' => $check->toArray()], 201);
    }

    #[Route('/api/checks', methods: ['DELETE'])]
    public function stop(): JsonResponse
    {
        $this->entities->getConnection()->executeStatement("UPDATE line_check SET stage = 'stopped' WHERE stage = 'running'");

        return new JsonResponse(null, 204);
    }
}
