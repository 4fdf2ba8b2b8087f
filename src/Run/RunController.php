<?php

declare(strict_types=1);

namespace Sorvel\App\Run;

use Doctrine\ORM\EntityManagerInterface;
use Sorvel\App\Desk\Desk;
use Sorvel\App\Http\Problem;
use Sorvel\App\People\Role;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\Routing\Attribute\Route;
use Symfony\Component\Security\Http\Attribute\IsGranted;

#[IsGranted(Role::AGENT)]
final class RunController
{
    public function __construct(private readonly EntityManagerInterface $entities, private readonly Desk $desk)
    {
    }

    private const PAGE = 50;

    /** The log of live events, newest first. */
    #[Route('/api/runs', methods: ['GET'])]
    public function list(Request $request): JsonResponse
    {
        $query = $request->query;
        [$where, $parameters, $join] = [['1 = 1'], [], ''];
        if ($query->getString('rule') !== '') {
            $join = ' JOIN run_rule x ON x.run = u.id AND x.rule = ?';
            $parameters[] = $query->getString('rule');
        }
        foreach (['kind' => 'u.kind', 'type' => 'u.type', 'record' => 'u.record'] as $key => $column) {
            if ($query->getString($key) !== '') {
                $where[] = $column.' = ?';
                $parameters[] = $query->getString($key);
            }
        }
        $where[] = match ($query->getString('only')) {
            '' => '1 = 1',
            'problems' => $join === '' ? 'u.wrong = 1' : "x.status IN ('problem', 'problem_before')",
            'acted' => $join === '' ? "EXISTS (SELECT 1 FROM run_rule a WHERE a.run = u.id AND a.status = 'acted')" : "x.status = 'acted'",
            default => throw new Problem(422, 'The log cannot be shown so.', '', [['pointer' => '/only', 'detail' => 'It is "acted", "problems" or left out.']]),
        };
        if ($query->getString('before') !== '') {
            $where[] = 'u.id < ?';
            $parameters[] = $query->getInt('before');
        }
        $rows = $this->entities->getConnection()->fetchFirstColumn('SELECT u.id FROM run u'.$join.' WHERE '.implode(' AND ', $where).' ORDER BY u.id DESC LIMIT '.(self::PAGE + 1), $parameters);
        $ids = array_map(fn (mixed $id): int => is_numeric($id) ? (int) $id : 0, array_slice($rows, 0, self::PAGE));
        $runs = $ids === [] ? [] : $this->entities->getRepository(Run::class)->findBy(['id' => $ids], ['id' => 'DESC']);

        return new JsonResponse([
            'runs' => array_map(fn (Run $r): array => [...$r->toArray(), 'record' => $r->record(), 'type' => $r->type()], $runs),
            'names' => (object) $this->desk->names(array_map(fn (Run $r): array => ['record' => $r->record(), 'changes' => $r->changes()], $runs)),
            'next' => count($rows) > self::PAGE ? end($ids) : null,
        ]);
    }

    /** How often each rule acted and failed, by day. */
    #[Route('/api/runs/by-rule', methods: ['GET'], priority: 1)]
    public function byRule(Request $request): JsonResponse
    {
        $days = max(1, min(90, $request->query->getInt('days', 14)));
        $rows = $this->entities->getConnection()->fetchAllAssociative("SELECT rule, DATE_FORMAT(day, '%Y-%m-%d') AS day, SUM(status = 'acted') AS acted, SUM(status IN ('problem', 'problem_before')) AS failed FROM run_rule WHERE day > DATE_SUB(UTC_DATE(), INTERVAL ? DAY) GROUP BY rule, day ORDER BY day", [$days]);
        $number = fn (mixed $n): int => is_numeric($n) ? (int) $n : 0;
        $rules = [];
        foreach ($rows as $row) {
            $rules[is_string($row['rule']) ? $row['rule'] : ''][] = ['day' => $row['day'], 'acted' => $number($row['acted']), 'failed' => $number($row['failed'])];
        }
        $told = [];
        foreach ($rules as $rule => $of) {
            $told[] = ['rule' => (string) $rule, 'acted' => array_sum(array_column($of, 'acted')), 'failed' => array_sum(array_column($of, 'failed')), 'days' => $of];
        }

        return new JsonResponse(['days' => $days, 'rules' => $told]);
    }

    #[Route('/api/runs/{run}', methods: ['GET'], requirements: ['run' => '\d{1,9}'])]
    public function read(int $run): JsonResponse
    {
        $found = $this->entities->find(Run::class, $run) ?? throw new Problem(404, sprintf('There is no run %d.', $run));

        return new JsonResponse(['run' => $found->toArray(), 'record' => $found->record(), 'trace' => $found->trace(), 'names' => (object) $this->desk->names([$found->trace()])]);
    }
}
