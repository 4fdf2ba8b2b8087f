<?php

declare(strict_types=1);

namespace Sorvel\App\Desk;

use Sorvel\App\Edition\Editions;
use Sorvel\App\Http\Problem;
use Sorvel\App\People\Role;
use Sorvel\Core\Mirror\Mirror;
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
        $rulebook = $this->editions->rulebook();
        $rules = [];
        foreach (is_array($tree['rules'] ?? null) ? $tree['rules'] : [] as $i => $rule) {
            $hand = ($rulebook->rules[(string) $rule['key']] ?? null)?->byHand();
            $rules[] = [
                'key' => $rule['key'], 'title' => $rule['title'], 'number' => (int) $i + 1,
                'by_hand' => $hand === null || ($rule['enabled'] ?? true) === false ? null : ['on' => (array) $rule['on'], 'role' => $hand->needs()->value, 'ask' => array_merge(...array_map(fn (mixed $s): array => is_array($s) && isset($s['by_hand']['ask']) ? $s['by_hand']['ask'] : [], $rule['starts']))],
            ];
        }

        return new JsonResponse([
            'title' => $tree['title'] ?? 'A new desk', 'timezone' => $tree['timezone'] ?? 'UTC', 'edition' => $this->editions->currentNumber(),
            'types' => $tree['types'] ?? [], 'people' => $tree['people'] ?? [],
            'teams' => array_map(fn (array $t): array => ['members' => [], ...$t], is_array($tree['teams'] ?? null) ? $tree['teams'] : []),
            'rules' => $rules, 'mirrors' => $this->boundMirrors(), 'tickets' => $this->records->countTickets(),
        ]);
    }

    /** @return list<array{on: list<string>, field: string, from: string}> mirrors that people cannot overrule */
    private function boundMirrors(): array
    {
        $rulebook = $this->editions->rulebook();
        $bound = array_filter($rulebook->mirrors ?? [], fn (Mirror $m): bool => $m->isBound());

        return array_values(array_map(fn (Mirror $m): array => ['on' => $m->on, 'field' => $m->field, 'from' => $m->from->source], $bound));
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
