<?php

declare(strict_types=1);

namespace Sorvel\App\Outbox;

use Psr\Clock\ClockInterface;
use Sorvel\App\Access\CurrentPerson;
use Sorvel\App\Http\Body;
use Sorvel\App\Http\Problem;
use Sorvel\App\People\Role;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\Routing\Attribute\Route;
use Symfony\Component\Security\Http\Attribute\IsGranted;

/** What goes out, and where calls may go. */
final class OutboxController
{
    public function __construct(private readonly Outbox $outbox, private readonly Sender $sender, private readonly Addresses $addresses, private readonly ClockInterface $clock, private readonly CurrentPerson $person)
    {
    }

    #[Route('/api/outgoing', methods: ['GET'])]
    #[IsGranted(Role::AGENT)]
    public function list(Request $request): JsonResponse
    {
        $query = $request->query;
        $stage = $query->getString('stage') === '' ? null : (Stage::tryFrom($query->getString('stage')) ?? throw new Problem(422, 'The outbox cannot be shown so.', '', [['pointer' => '/stage', 'detail' => 'It is waiting, sending, sent or failed.']]));
        $page = $this->outbox->page($query->getString('kind') ?: null, $stage?->value, $query->getString('record') ?: null, $query->getInt('before', PHP_INT_MAX), 51);

        return new JsonResponse(['outgoing' => array_slice($page, 0, 50), 'next' => count($page) > 50 ? $page[49]['outgoing'] : null]);
    }

    /** A call that waits, or has failed, is answered by hand, as if its receiver had. */
    #[Route('/api/outgoing/{number}/answer', methods: ['POST'], requirements: ['number' => '\d{1,9}'])]
    #[IsGranted(Role::BUILDER)]
    public function answer(int $number, Request $request): JsonResponse
    {
        $body = Body::of($request);
        $outgoing = $this->outbox->find($number) ?? throw new Problem(404, sprintf('There is nothing %d in the outbox.', $number));
        $status = $body->integerOrNull('status');
        if ($outgoing->kind !== 'call' || $outgoing->stage === Stage::Sent) {
            throw new Problem(409, $outgoing->kind !== 'call' ? 'A message is not answered here; answers to it come in as messages.' : 'This call has been answered.', 'Nothing was changed.');
        }
        if ($status !== null && ($status < 100 || $status > 599)) {
            throw new Problem(422, 'The answer was not taken.', '', [['pointer' => '/status', 'detail' => 'A status is a number from 100 to 599.']]);
        }
        $this->sender->byHand($outgoing, new Answer($status, $body->textOrNull('body'), $status !== null && $status < 300 ? '' : sprintf('Answered by hand by %s with %s.', $this->person->key(), $status === null ? 'no status' : 'status '.$status), false), $this->clock->now());

        return new JsonResponse($this->outbox->page(null, null, null, $number + 1, 1)[0] ?? null);
    }

    #[Route('/api/addresses', methods: ['GET'])]
    #[IsGranted(Role::AGENT)]
    public function addresses(): JsonResponse
    {
        return new JsonResponse(['addresses' => array_map(fn (Address $a): array => ['id' => $a->id, 'address' => $a->address, 'inside' => $a->mayBeInside, 'stand_in' => $a->isStandIn, 'has_credentials' => $a->credentials !== null], $this->addresses->all())]);
    }

    #[Route('/api/addresses', methods: ['POST'])]
    #[IsGranted(Role::ADMINISTRATOR)]
    public function allow(Request $request): JsonResponse
    {
        $body = Body::of($request);
        $this->addresses->allow(trim($body->text('address')), $body->flag('inside'), $body->flag('stand_in'), $body->textOrNull('credentials'));

        return $this->addresses();
    }

    #[Route('/api/addresses/{number}', methods: ['DELETE'], requirements: ['number' => '\d{1,9}'])]
    #[IsGranted(Role::ADMINISTRATOR)]
    public function forbid(int $number): JsonResponse
    {
        $this->addresses->forbid($number);

        return $this->addresses();
    }
}
