<?php

declare(strict_types=1);

namespace Sorvel\Core\Finding;

/** Something the checker says about a rulebook without running it. */
final class Finding
{
    /** Stays the same as long as what is found does, so that it can be accepted. */
    public readonly string $id;

    /**
     * @param  string  $check  which check says so, in snake case
     * @param  'types'|'tables'|'rules'|'guards'|'mirrors'|'people'  $kind  of the part it is about
     * @param  string  $key  of that part
     * @param  string  $at  JSON pointer inside the part's tree; empty for the whole
     * @param  string  $says  what is found, in a sentence
     * @param  string  $why  why it matters
     * @param  string  $proposal  what one might do
     * @param  list<string>  $others  keys of further rules that it is about
     */
    public function __construct(
        public readonly string $check,
        public readonly Weight $weight,
        public readonly string $kind,
        public readonly string $key,
        public readonly string $at,
        public readonly string $says,
        public readonly string $why,
        public readonly string $proposal,
        public readonly array $others = [],
    ) {
        $this->id = substr(hash('sha256', implode("\0", [$check, $kind, $key, $at, $says])), 0, 20);
    }

    /** @return array{id: string, check: string, weight: string, kind: string, key: string, at: string, says: string, why: string, proposal: string, others: list<string>} */
    public function toArray(): array
    {
        return ['id' => $this->id, 'check' => $this->check, 'weight' => $this->weight->value, 'kind' => $this->kind, 'key' => $this->key, 'at' => $this->at, 'says' => $this->says, 'why' => $this->why, 'proposal' => $this->proposal, 'others' => $this->others];
    }
}
