<?php

declare(strict_types=1);

namespace Sorvel\App\Work;

use Sorvel\App\Http\Problem;
use Sorvel\Core\Proposal\Proposed;
use Sorvel\Core\Proposal\Proposer;
use Sorvel\Core\Rule\Rule;

/** The stories that are missing, of one rule or of all, with guards and mirrors: a few rules a chunk. */
final class ProposeTask implements Task
{
    private const RULES = 5;

    /** @var array{string, Proposer}|null a draft, and what its samples have met */
    private ?array $begun = null;

    public function __construct(private readonly Prepared $prepared)
    {
    }

    public function kind(): string
    {
        return 'propose';
    }

    public function takes(): array
    {
        return ['rule'];
    }

    public function chunks(LongWork $work): int
    {
        // guards and mirrors come last
        return (int) ceil(count($this->rules($work)) / self::RULES) + (isset($work->asked()['rule']) ? 0 : 1);
    }

    public function chunk(LongWork $work, int $chunk): array
    {
        $book = $this->prepared->book($work);
        if ($this->begun === null || $this->begun[0] !== $work->draft()) {
            $this->begun = [$work->draft(), new Proposer($book, $this->prepared->samples($work))];
        }
        // each chunk begins with what the samples have met, whatever this worker has done before
        $proposer = clone $this->begun[1];
        $rules = $this->rules($work);
        $found = $chunk * self::RULES >= count($rules) ? $proposer->guardsAndMirrors() : [];
        foreach (array_slice($rules, $chunk * self::RULES, self::RULES) as $rule) {
            array_push($found, ...$proposer->about($rule));
        }

        return ['told' => $proposer->told, 'proposed' => array_map(fn (Proposed $p): array => ['kind' => $p->kind, 'rule' => $p->rule, 'tree' => $p->tree, 'covers' => $p->covers], $found)];
    }

    public function together(LongWork $work, array $chunks): array
    {
        return ['told' => array_sum(array_column($chunks, 'told')), 'proposed' => array_merge(...array_column($chunks, 'proposed'), ...[[]])];
    }

    /** @return list<Rule> */
    private function rules(LongWork $work): array
    {
        $rules = $this->prepared->book($work)->rules();
        $only = $work->asked()['rule'] ?? null;
        if ($only === null) {
            return $rules;
        }

        return array_values(array_filter($rules, fn (Rule $r): bool => $r->key === $only)) ?: throw new Problem(422, 'There is no such rule that is switched on.', '', [['pointer' => '/rule', 'detail' => 'It is the key of a rule of the draft.']]);
    }
}
