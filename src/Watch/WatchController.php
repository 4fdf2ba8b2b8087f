<?php

declare(strict_types=1);

namespace Sorvel\App\Watch;

use Sorvel\App\Access\CurrentPerson;
use Sorvel\App\Desk\Desk;
use Sorvel\App\Edition\Editions;
use Sorvel\App\Http\Problem;
use Sorvel\App\Notice\Notices;
use Sorvel\App\People\Role;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\Routing\Attribute\Route;
use Symfony\Component\Security\Http\Attribute\IsGranted;

#[IsGranted(Role::AGENT)]
final class WatchController
{
    public function __construct(private readonly Desk $desk, private readonly Watch $watch, private readonly CurrentPerson $person, private readonly Editions $editions, private readonly Notices $notices)
    {
    }

    #[Route('/api/tickets/{id}/watchers/{key}', methods: ['PUT'])]
    public function begin(string $id, string $key): JsonResponse
    {
        $this->desk->ticket($id);
        if (! isset($this->desk->rulebook()->people[$key])) {
            throw new Problem(422, 'This person cannot watch it.', '', [['pointer' => '/key', 'detail' => sprintf('There is no person "%s".', mb_strimwidth($key, 0, 60, '…'))]]);
        }
        $this->watch->begin($id, $key);

        return new JsonResponse(['watchers' => $this->watch->of($id)]);
    }

    #[Route('/api/tickets/{id}/watchers/{key}', methods: ['DELETE'])]
    public function end(string $id, string $key): JsonResponse
    {
        $this->desk->ticket($id);
        $this->watch->end($id, $key);

        return new JsonResponse(['watchers' => $this->watch->of($id)]);
    }

    /** Asked every few seconds by every open page. */
    #[Route('/api/changes', methods: ['GET'])]
    public function changes(Request $request): JsonResponse
    {
        $since = $request->query->getString('since');
        [$run, $note] = $this->watch->last();
        $records = [];
        if ($since !== '') {
            if (preg_match('~^(\d{1,10})-(\d{1,10})$~', $since, $match) !== 1) {
                throw new Problem(422, 'This is not a place in the account of changes.', 'Leave "since" out to begin now.', [['pointer' => '/since', 'detail' => 'It must be what the last answer gave.']]);
            }
            $records = [(int) $match[1], (int) $match[2]] === [$run, $note] ? [] : $this->watch->changed((int) $match[1], (int) $match[2]);
        }

        return new JsonResponse(['since' => $run.'-'.$note, 'edition' => $this->editions->currentNumber(), 'records' => $records, 'news' => $this->watch->news($this->person->key()), 'notices' => $this->notices->unseen($this->person->key())]);
    }
}
