<?php

declare(strict_types=1);

namespace Sorvel\App\Desk;

use Sorvel\App\Edition\Editions;
use Sorvel\App\Http\Problem;
use Sorvel\App\People\Role;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\Routing\Attribute\Route;
use Symfony\Component\Security\Http\Attribute\IsGranted;

#[IsGranted(Role::AGENT)]
final class DeskController
{
    public function __construct(private readonly Desk $desk, private readonly Records $records, private readonly Editions $editions)
    {
    }

    #[Route('/api/desk', methods: ['GET'])]
    public function read(): JsonResponse
    {
        $tree = $this->editions->current()?->rulebook() ?? [];
        $rules = [];
        foreach (is_array($tree['rules'] ?? null) ? $tree['rules'] : [] as $i => $rule) {
            $rules[] = ['key' => $rule['key'], 'title' => $rule['title'], 'number' => (int) $i + 1];
        }

        return new JsonResponse([
            'title' => $tree['title'] ?? 'A new desk', 'timezone' => $tree['timezone'] ?? 'UTC', 'edition' => $this->editions->currentNumber(),
            'types' => $tree['types'] ?? [], 'people' => $tree['people'] ?? [],
            'teams' => array_map(fn (array $t): array => ['members' => [], ...$t], is_array($tree['teams'] ?? null) ? $tree['teams'] : []),
            'rules' => $rules, 'tickets' => $this->records->countTickets(),
        ]);
    }

    #[Route('/api/records', methods: ['GET'])]
    public function records(Request $request): JsonResponse
    {
        $type = $request->query->getString('type');
        if (! isset($this->desk->rulebook()->types[$type])) {
            throw new Problem(404, sprintf('There is no record type "%s".', mb_strimwidth($type, 0, 40, '…')));
        }

        return new JsonResponse(['records' => $this->records->names($type, $request->query->getString('q'))]);
    }
}
