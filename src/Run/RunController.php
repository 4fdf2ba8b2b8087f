<?php

declare(strict_types=1);

namespace Sorvel\App\Run;

use Doctrine\ORM\EntityManagerInterface;
use Sorvel\App\Desk\Desk;
use Sorvel\App\Http\Problem;
use Sorvel\App\People\Role;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\Routing\Attribute\Route;
use Symfony\Component\Security\Http\Attribute\IsGranted;

#[IsGranted(Role::AGENT)]
final class RunController
{
    public function __construct(private readonly EntityManagerInterface $entities, private readonly Desk $desk)
    {
    }

    #[Route('/api/runs/{run}', methods: ['GET'], requirements: ['run' => '\d{1,9}'])]
    public function read(int $run): JsonResponse
    {
        $found = $this->entities->find(Run::class, $run) ?? throw new Problem(404, sprintf('There is no run %d.', $run));

        return new JsonResponse(['run' => $found->toArray(), 'record' => $found->record(), 'trace' => $found->trace(), 'names' => (object) $this->desk->names([$found->trace()])]);
    }
}
