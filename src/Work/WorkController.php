<?php

declare(strict_types=1);

namespace Sorvel\App\Work;

use Doctrine\ORM\EntityManagerInterface;
use Psr\Clock\ClockInterface;
use Sorvel\App\Access\CurrentPerson;
use Sorvel\App\Draft\Draft;
use Sorvel\App\Edition\Editions;
use Sorvel\App\Http\Body;
use Sorvel\App\Http\Problem;
use Sorvel\App\Impact\WayBackTask;
use Sorvel\App\People\Role;
use Sorvel\App\Replay\ReplayTask;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\Messenger\MessageBusInterface;
use Symfony\Component\Routing\Attribute\Route;
use Symfony\Component\Security\Http\Attribute\IsGranted;

/** Long work on the draft: asked for, watched, stopped, gone on with. */
#[IsGranted(Role::BUILDER)]
final class WorkController
{
    public function __construct(
        private readonly EntityManagerInterface $entities,
        private readonly Draft $draft,
        private readonly Editions $editions,
        private readonly Tasks $tasks,
        private readonly CurrentPerson $person,
        private readonly ClockInterface $clock,
        private readonly MessageBusInterface $bus,
    ) {
    }

    /** The last of a kind. */
    #[Route('/api/work', methods: ['GET'])]
    public function last(Request $request): JsonResponse
    {
        $kind = $this->tasks->of($request->query->getString('kind'))->kind();
        $work = $this->lastOf($kind);

        return new JsonResponse(['work' => $work === null ? null : $this->shown($work)]);
    }

    #[Route('/api/work', methods: ['POST'])]
    public function ask(Request $request): JsonResponse
    {
        $body = Body::of($request);
        $task = $this->tasks->of($body->text('kind'));
        $asked = array_filter(['rule' => $body->textOrNull('rule'), 'days' => $body->integerOrNull('days'), 'edition' => $body->integerOrNull('edition')], fn (mixed $v): bool => $v !== null);
        foreach (array_keys(array_diff_key($asked, array_flip($task->takes()))) as $strange) {
            throw new Problem(422, sprintf('This work is not asked for with "%s".', $strange), '', [['pointer' => '/'.$strange, 'detail' => 'Leave it out.']]);
        }
        if ($task->kind() === WayBackTask::KIND && ! isset($asked['edition'])) {
            throw new Problem(422, 'A way back leads to an edition.', '', [['pointer' => '/edition', 'detail' => 'The number of the edition to go back to.']]);
        }
        $same = $task->kind() === ReplayTask::KIND ? $this->lastOf(ReplayTask::KIND) : null;
        if ($same !== null && ! $same->isStopped() && $this->isCurrent($same)) {
            // the same replay for everybody who looks at the draft
            return new JsonResponse($this->shown($same, false));
        }
        $work = new LongWork($task->kind(), $this->person->key(), $this->clock->now(), $this->rulebook($asked['edition'] ?? null), $this->draft->sampleTrees(), $asked);
        $this->entities->persist($work);
        $this->entities->flush();
        // chunks are the same whatever happens meanwhile
        $work->keeps('until', (int) $this->entities->getConnection()->fetchOne('SELECT COALESCE(MAX(id), 0) FROM past_event'));
        try {
            $work->isIn($task->chunks($work));
        } catch (Problem $problem) {
            $this->entities->remove($work);
            $this->entities->flush();
            throw $problem;
        }
        $this->entities->flush();
        $this->forgetOld($task->kind(), $work->id());
        $this->dispatch($work);

        return new JsonResponse($this->shown($work), 201);
    }

    #[Route('/api/work/{number}', methods: ['GET'], requirements: ['number' => '\d{1,9}'])]
    public function show(int $number, Request $request): JsonResponse
    {
        $result = $request->query->getString('result');
        if (! in_array($result, ['', 'no'], true)) {
            throw new Problem(422, 'This cannot be shown like this.', '', [['pointer' => '/result', 'detail' => 'It is "no", or left out.']]);
        }

        return new JsonResponse($this->shown($this->find($number), $result === ''));
    }

    #[Route('/api/work/{number}', methods: ['POST'], requirements: ['number' => '\d{1,9}'])]
    public function act(int $number, Request $request): JsonResponse
    {
        $work = $this->find($number);
        $act = Body::of($request)->text('act');
        if (! in_array($act, ['stop', 'go_on'], true)) {
            throw new Problem(422, 'This cannot be done with it.', '', [['pointer' => '/act', 'detail' => 'It is one of stop, go_on.']]);
        }
        $wasStopped = $work->isStopped();
        $work->stop($act === 'stop');
        $this->entities->flush();
        if ($act === 'go_on' && $wasStopped) {
            $this->dispatch($work);
        }

        return new JsonResponse($this->shown($work));
    }

    private function dispatch(LongWork $work): void
    {
        $done = array_flip(array_map(intval(...), $this->entities->getConnection()->fetchFirstColumn('SELECT number FROM long_work_chunk WHERE work = ?', [$work->id()])));
        for ($chunk = 0; $chunk < $work->chunks(); $chunk++) {
            isset($done[$chunk]) || $this->bus->dispatch(new WorkOnChunk($work->id(), $chunk));
        }
    }

    /** What was asked for before of the same kind is not gone on with, and all but the last few are forgotten. */
    private function forgetOld(string $kind, int $now): void
    {
        $database = $this->entities->getConnection();
        $database->executeStatement('UPDATE long_work SET stopped = 1 WHERE kind = ? AND id < ?', [$kind, $now]);
        foreach (array_slice($database->fetchFirstColumn('SELECT id FROM long_work WHERE kind = ? ORDER BY id DESC', [$kind]), 10) as $old) {
            $database->executeStatement('DELETE FROM long_work_chunk WHERE work = ?', [$old]);
            $database->executeStatement('DELETE FROM long_work WHERE id = ?', [$old]);
        }
    }

    private function lastOf(string $kind): ?LongWork
    {
        return $this->entities->getRepository(LongWork::class)->findOneBy(['kind' => $kind], ['id' => 'DESC']);
    }

    private function find(int $number): LongWork
    {
        return $this->entities->find(LongWork::class, $number) ?? throw new Problem(404, 'There is no such work.', 'Only the last few of a kind are kept.');
    }

    /** @return array<string, mixed> the draft's, or what the desk would run on after going back to an edition */
    private function rulebook(?int $edition): array
    {
        if ($edition === null) {
            return $this->draft->tree();
        }

        return $this->draft->becoming(($this->editions->find($edition) ?? throw new Problem(404, sprintf('There is no edition %d.', $edition)))->rulebook());
    }

    private function isCurrent(LongWork $work): bool
    {
        $edition = $work->asked()['edition'] ?? null;
        try {
            return $work->draft() === LongWork::fingerprint($this->rulebook(is_int($edition) ? $edition : null), $this->draft->sampleTrees());
        } catch (Problem) {
            return false;
        }
    }

    /** @return array<string, mixed> */
    private function shown(LongWork $work, bool $withResult = true): array
    {
        $chunks = $this->entities->getConnection()->fetchAllAssociative(sprintf('SELECT %s AS result, ms FROM long_work_chunk WHERE work = ? ORDER BY number', $withResult ? 'result' : "''"), [$work->id()]);
        $results = array_map(function (array $c): array {
            /** @var array<string, mixed> */
            return (array) json_decode((string) $c['result'], true, 512, JSON_THROW_ON_ERROR);
        }, $withResult ? $chunks : []);

        return [
            'number' => $work->id(), 'kind' => $work->kind(), 'by' => $work->by(), 'at' => $work->at()->format(\DATE_ATOM), 'chunks' => $work->chunks(), 'done' => count($chunks), 'stopped' => $work->isStopped(),
            'edition' => $work->asked()['edition'] ?? null, 'current' => $this->isCurrent($work), 'ms' => (int) array_sum(array_column($chunks, 'ms')),
            'result' => (object) ($results === [] ? [] : $this->tasks->of($work->kind())->together($work, $results)),
        ];
    }
}
