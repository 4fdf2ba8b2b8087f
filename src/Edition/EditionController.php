<?php

declare(strict_types=1);

namespace Sorvel\App\Edition;

use Sorvel\App\Access\CurrentPerson;
use Sorvel\App\Draft\Difference;
use Sorvel\App\Draft\Draft;
use Sorvel\App\Http\Body;
use Sorvel\App\Http\Problem;
use Sorvel\App\People\Role;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\Routing\Attribute\Route;
use Symfony\Component\Security\Http\Attribute\IsGranted;

final class EditionController
{
    public function __construct(private readonly Editions $editions, private readonly Publisher $publisher, private readonly CurrentPerson $person, private readonly Gate $gate, private readonly WayBack $wayBack, private readonly Draft $draft, private readonly Approvals $approvals)
    {
    }

    /** What stands in the way of publishing the draft. */
    #[Route('/api/editions/gate', methods: ['GET'], priority: 1)]
    #[IsGranted(Role::BUILDER)]
    public function gate(): JsonResponse
    {
        return new JsonResponse([...$this->gate->inTheWay(), 'approval' => ['needed' => $this->approvals->areNeeded(), 'by' => $this->approvals->given()]]);
    }

    /** Approves the draft exactly as it is; somebody else publishes it. */
    #[Route('/api/editions/approval', methods: ['POST'], priority: 1)]
    #[IsGranted(Role::PUBLISHER)]
    public function approve(): JsonResponse
    {
        $this->approvals->give($this->person->key());

        return new JsonResponse(['needed' => $this->approvals->areNeeded(), 'by' => $this->approvals->given()], 201);
    }

    /** Whether the desk asks for a second person from the next edition on. */
    #[Route('/api/editions/approval', methods: ['PUT'], priority: 1)]
    #[IsGranted(Role::ADMINISTRATOR)]
    public function askForApproval(Request $request): JsonResponse
    {
        $this->approvals->ask(Body::of($request)->flag('asked'), $this->person->key());

        return new JsonResponse(['needed' => $this->approvals->areNeeded(), 'by' => $this->approvals->given()]);
    }

    /** Back to an earlier edition in one act: its rules, tables, guards and mirrors become the draft and the next edition. */
    #[Route('/api/editions/{number}/back', methods: ['POST'], requirements: ['number' => '\d{1,9}'])]
    #[IsGranted(Role::PUBLISHER)]
    public function back(int $number, Request $request): JsonResponse
    {
        $body = Body::of($request);

        return new JsonResponse($this->wayBack->to($number, trim($body->text('reason')), $body->flag('discard'), (string) $this->person->key())->toArray(), 201);
    }

    #[Route('/api/editions', methods: ['GET'])]
    #[IsGranted(Role::BUILDER)]
    public function list(): JsonResponse
    {
        return new JsonResponse(['editions' => array_map(fn (Edition $e): array => $e->toArray(), $this->editions->all())]);
    }

    #[Route('/api/editions/{number}', methods: ['GET'], requirements: ['number' => '\d{1,9}'])]
    #[IsGranted(Role::BUILDER)]
    public function read(int $number): JsonResponse
    {
        $edition = $this->editions->find($number) ?? throw new Problem(404, sprintf('There is no edition %d.', $number));
        $before = $this->editions->find($number - 1)?->rulebook() ?? [];

        return new JsonResponse(['edition' => $edition->toArray(), 'parts' => Difference::parts($before, $edition->rulebook())]);
    }

    /** What any two differ in, the draft among them. */
    #[Route('/api/compare', methods: ['GET'])]
    #[IsGranted(Role::BUILDER)]
    public function compare(Request $request): JsonResponse
    {
        [$from, $to] = [$this->side($request, 'from'), $this->side($request, 'to')];

        return new JsonResponse(['changes' => Difference::between($from, $to), 'parts' => Difference::parts($from, $to)]);
    }

    /** @return array<string, mixed> */
    private function side(Request $request, string $which): array
    {
        $asked = $request->query->getString($which);
        if ($asked === 'draft') {
            return $this->draft->tree();
        }
        $edition = preg_match('~^\d{1,9}$~', $asked) === 1 ? $this->editions->find((int) $asked) : null;

        return $edition?->rulebook() ?? throw new Problem(422, 'This cannot be compared.', '', [['pointer' => '/'.$which, 'detail' => 'It is the number of an edition, or draft.']]);
    }

    /** The whole rulebook of an edition with its samples, to be read as a document. */
    #[Route('/api/editions/{number}/rulebook', methods: ['GET'], requirements: ['number' => '\d{1,9}'])]
    #[IsGranted(Role::BUILDER)]
    public function rulebook(int $number): JsonResponse
    {
        $edition = $this->editions->find($number) ?? throw new Problem(404, sprintf('There is no edition %d.', $number));

        return new JsonResponse(['edition' => $edition->toArray(), 'rulebook' => (object) $edition->rulebook(), 'samples' => $edition->samples()]);
    }

    #[Route('/api/editions', methods: ['POST'])]
    #[IsGranted(Role::PUBLISHER)]
    public function publish(Request $request): JsonResponse
    {
        $body = Body::of($request);
        $note = trim($body->text('note'));
        if ($note === '' || mb_strlen($note) > 2000) {
            throw new Problem(422, 'An edition needs a note.', 'Say in a sentence or two what changes for the desk.', [['pointer' => '/note', 'detail' => $note === '' ? 'It must not be empty.' : 'At most 2,000 characters fit.']]);
        }

        $inTheWay = $this->gate->inTheWay();
        $reason = trim($body->textOrNull('override') ?? '');
        $isBlocked = $inTheWay['samples'] !== [] || $inTheWay['findings'] !== [];
        if ($isBlocked && ($reason === '' || mb_strlen($reason) > 2000)) {
            throw new Problem(409, 'Something stands in the way of this edition.', 'Mend it, accept what is meant so, or say why it is to be published all the same; the reason stays with the edition.', [['pointer' => '/override', 'detail' => $reason === '' ? 'A reason is needed.' : 'At most 2,000 characters fit.']], $inTheWay);
        }

        $others = array_values(array_diff($this->approvals->given(), [$this->person->key()]));
        if ($this->approvals->areNeeded() && $others === []) {
            throw new Problem(409, 'A second person has to approve this draft first.', 'Ask somebody else who may publish to look at it and approve it; every later edit needs it anew.', [['pointer' => '/approval', 'detail' => 'Nobody else has approved the draft as it is.']]);
        }

        return new JsonResponse($this->publisher->publish($note, $this->person->key(), $isBlocked ? ['reason' => $reason, ...$inTheWay] : null)->toArray(), 201);
    }
}
