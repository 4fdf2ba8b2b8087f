<?php

declare(strict_types=1);

namespace Sorvel\App\Desk;

use Doctrine\ORM\EntityManagerInterface;
use Psr\Clock\ClockInterface;
use Sorvel\App\Access\CurrentPerson;
use Sorvel\App\Draft\KeyChanges;
use Sorvel\App\Http\Body;
use Sorvel\App\Http\IfMatch;
use Sorvel\App\Http\Problem;
use Sorvel\App\Note\Notes;
use Sorvel\App\People\Role;
use Sorvel\App\Run\Run;
use Sorvel\App\Watch\Watch;
use Sorvel\Core\Engine\Event;
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
    private const MOST_AT_ONCE = 50;

    public function __construct(
        private readonly Desk $desk,
        private readonly Records $records,
        private readonly CurrentPerson $person,
        private readonly EntityManagerInterface $entities,
        private readonly KeyChanges $keyChanges,
        private readonly Notes $notes,
        private readonly Watch $watch,
        private readonly Related $related,
        private readonly ClockInterface $clock,
    ) {
    }

    #[Route('/api/tickets', methods: ['GET'])]
    public function list(Request $request): JsonResponse
    {
        $rulebook = $this->desk->rulebook();
        $page = $this->records->page(RecordQuery::of($request, $rulebook, $this->person->key(), $this->clock->now()), $rulebook);
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

    /** The same change to several tickets, of which each is saved or turned down by itself; or what it would come to. */
    #[Route('/api/tickets/bulk', methods: ['POST'], priority: 1)]
    public function bulk(Request $request): JsonResponse
    {
        $body = Body::of($request);
        $values = $body->map('values');
        $tickets = $body->maps('tickets');
        if ($values === [] || count($tickets) > self::MOST_AT_ONCE) {
            throw new Problem(422, 'Nothing was changed.', '', [['pointer' => $values === [] ? '/values' : '/tickets', 'detail' => $values === [] ? 'Name at least one field and its value.' : sprintf('At most %d tickets go in one request.', self::MOST_AT_ONCE)]]);
        }
        $versions = [];
        foreach ($tickets as $i => $ticket) {
            if (! is_string($ticket['id'] ?? null) || ! is_int($ticket['version'] ?? null)) {
                throw new Problem(422, 'Nothing was changed.', '', [['pointer' => '/tickets/'.$i, 'detail' => 'A ticket is {"id": …, "version": …}.']]);
            }
            $versions[$ticket['id']] = $ticket['version'];
        }
        $by = $this->person->key();
        $role = $this->desk->roleOf($by);
        $fates = ($body->textOrNull('mode') ?? 'save') === 'try'
            ? $this->desk->tryMany(array_map(strval(...), array_keys($versions)), $values, $by)
            : $this->desk->many($versions, fn (string $id, string $type, string $at): Event => Event::changed($type, $id, $values, $by, $at, $role));

        return $this->fates($versions, $fates);
    }

    /** A rule started by hand on several tickets, of which each is saved or turned down by itself. */
    #[Route('/api/tickets/by-hand', methods: ['POST'], priority: 1)]
    public function byHand(Request $request): JsonResponse
    {
        $body = Body::of($request);
        [$rule, $ids, $inputs] = [$body->text('rule'), $body->texts('tickets'), $body->mapOrNull('inputs') ?? []];
        if ($ids === [] || count($ids) > self::MOST_AT_ONCE) {
            throw new Problem(422, 'The rule was not started.', '', [['pointer' => '/tickets', 'detail' => $ids === [] ? 'Name at least one ticket.' : sprintf('At most %d tickets go in one request.', self::MOST_AT_ONCE)]]);
        }
        $by = $this->person->key();
        $role = $this->desk->roleOf($by);
        $wanted = array_fill_keys($ids, null);
        $fates = $this->desk->many($wanted, fn (string $id, string $type, string $at): Event => Event::byHand($type, $id, $rule, $inputs, $by, $at, $role));
        $only = count($wanted) === 1 ? reset($fates) : null;
        if ($only instanceof Problem) {
            throw $only;
        }

        return $this->fates($wanted, $fates);
    }

    /**
     * @param  array<string, mixed>  $asked  by ticket, in the order of the answer
     * @param  array<string, SavedEvent|Outcome|Problem>  $came  by ticket
     */
    private function fates(array $asked, array $came): JsonResponse
    {
        $fates = [];
        foreach (array_keys($asked) as $id) {
            $one = $came[$id];
            if ($one instanceof Problem) {
                $fate = match ($one->getStatusCode()) {
                    404 => 'gone', 412 => 'stale', default => 'refused'
                };
                $fates[] = ['id' => (string) $id, 'fate' => $fate, 'reasons' => $one->details(), 'changes' => [], 'rules' => []];

                continue;
            }
            [$refused, $problems, $changes, $rules] = $one instanceof Outcome
                ? [$one->refused, $one->problems, $one->changes, array_map(fn (RuleStatus $s): string => $s->value, $one->rules())]
                : [[], $one->run->problems(), $one->run->changes(), $one->run->rules()];
            $acted = array_map(strval(...), array_keys(array_filter($rules, fn (string $s): bool => $s === RuleStatus::Acted->value)));
            $fate = $refused !== [] ? 'refused' : ($changes === [] && $acted === [] ? 'same' : 'changed');
            $fates[] = ['id' => (string) $id, 'fate' => $fate, 'reasons' => $refused !== [] ? array_column($refused, 'reason') : array_column($problems, 'message'), 'changes' => $changes, 'rules' => $acted];
        }

        return new JsonResponse(['fates' => $fates]);
    }

    #[Route('/api/tickets/{id}', methods: ['GET'])]
    public function read(string $id): JsonResponse
    {
        $ticket = $this->desk->ticket($id);
        $runs = $this->entities->getRepository(Run::class)->findBy(['record' => $id], ['id' => 'DESC'], 100);
        $history = array_map(fn (Run $r): array => [...$r->toArray(), 'changes' => $this->keyChanges->upToDate($r->changes(), $r->type(), $r->edition())], $runs);

        $this->watch->seen($id, $this->person->key());

        return new JsonResponse([
            'ticket' => $ticket->toArray(), 'names' => (object) $this->desk->names([$ticket->record->values, ...array_column($history, 'changes')]), 'history' => $history,
            'notes' => $this->notes->of($id), 'watchers' => $this->watch->of($id), 'related' => $this->related->to($ticket->record, $this->desk->rulebook()),
        ]);
    }

    #[Route('/api/tickets/{id}', methods: ['PATCH'])]
    public function change(string $id, Request $request): JsonResponse
    {
        $this->desk->ticket($id);

        return new JsonResponse($this->saved($this->desk->change($id, Body::of($request)->map('values'), IfMatch::version($request), $this->person->key())));
    }

    #[Route('/api/tickets/{id}', methods: ['DELETE'])]
    #[IsGranted(Role::BUILDER)]
    public function delete(string $id, Request $request): JsonResponse
    {
        $this->desk->ticket($id);
        $this->desk->delete($id, IfMatch::version($request), $this->person->key());

        return new JsonResponse(null, 204);
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
            'rules' => (object) array_map(fn (RuleStatus $s): string => $s->value, $outcome->rules()),
            'changes' => $outcome->changes,
            'problems' => $outcome->problems,
            'values' => (object) Record::json($outcome->record->values),
            'trace' => $outcome->trace,
            'names' => (object) $this->desk->names([$outcome->record->values, ...$outcome->changes]),
        ];
    }
}
