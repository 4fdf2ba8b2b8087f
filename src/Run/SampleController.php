<?php

declare(strict_types=1);

namespace Sorvel\App\Run;

use Doctrine\ORM\EntityManagerInterface;
use Sorvel\App\Access\CurrentPerson;
use Sorvel\App\Desk\Desk;
use Sorvel\App\Draft\Draft;
use Sorvel\App\Draft\PartKind;
use Sorvel\App\Http\Body;
use Sorvel\App\Http\Problem;
use Sorvel\App\Impact\PastEvents;
use Sorvel\App\Impact\SampleFromPast;
use Sorvel\App\People\Role;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\Routing\Attribute\Route;
use Symfony\Component\Security\Http\Attribute\IsGranted;

/** Any event of a ticket becomes a sample with one click. */
final class SampleController
{
    public function __construct(
        private readonly EntityManagerInterface $entities,
        private readonly Desk $desk,
        private readonly Draft $draft,
        private readonly SampleFromRun $fromRun,
        private readonly CurrentPerson $person,
        private readonly PastEvents $past,
    ) {
    }

    #[Route('/api/tickets/{id}/sample', methods: ['POST'])]
    #[IsGranted(Role::BUILDER)]
    public function keep(string $id, Request $request): JsonResponse
    {
        $this->desk->ticket($id);
        $number = Body::of($request)->integerOrNull('run');
        $run = $this->entities->getRepository(Run::class)->findOneBy($number === null ? ['record' => $id] : ['record' => $id, 'id' => $number], ['id' => 'DESC']);
        if ($run === null) {
            throw new Problem(404, sprintf('%s has no such event.', $id), 'Reload the ticket and pick an event from its history.');
        }
        $past = $this->past->ofRun($run->number());
        $tree = $this->fromRun->tree($run);
        if ($past !== null) {
            // exactly what was read then, not what stands there now
            $tree = SampleFromPast::tree($past, $this->draft->rulebook(), (string) $tree['key']);
        }
        if (Body::of($request)->flag('nameless')) {
            $tree = Nameless::tree($tree, $this->draft->rulebook());
        }
        $part = $this->draft->add(PartKind::Samples, $tree, null, $this->person->key());

        return new JsonResponse(['part' => $part->toArray(), 'changes' => $this->draft->changes()], 201);
    }
}
