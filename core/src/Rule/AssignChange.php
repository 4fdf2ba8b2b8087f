<?php

declare(strict_types=1);

namespace Sorvel\Core\Rule;

use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Person;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\State;
use Sorvel\Core\Model\Team;
use Sorvel\Core\Model\Viewer;

/** `{assign: take_turns | least_loaded, team: KEY}`: its cell is yes or no; who is away or no longer active is passed over. */
final class AssignChange extends FieldChange
{
    /** @param  'take_turns'|'least_loaded'  $way */
    public function __construct(public readonly string $way, public readonly Team $team, private readonly When $when, ?string $of = null)
    {
        parent::__construct('assignee', $of);
    }

    public function isAlways(): bool
    {
        return $this->when === When::Always;
    }

    /** The same, whoever has it already. */
    public function always(): self
    {
        return new self($this->way, $this->team, When::Always, $this->of);
    }

    public function kind(): string
    {
        return 'assign';
    }

    public function propose(mixed $cell, mixed $current, Field $field, Viewer $viewer, \Closure $past): Proposal
    {
        if ($cell === null || $cell === false) {
            return Proposal::keep('not to be assigned');
        }
        if ($cell !== true) {
            throw new Misfit('an assign cell must come to yes or no.');
        }
        if ($this->when === When::Empty && ! Record::isEmpty($current)) {
            return Proposal::keep('has a value: kept');
        }
        $members = array_values(array_filter(array_map(fn (string $key): ?Person => $viewer->rulebook->people[$key] ?? null, $this->team->members)));
        $there = array_values(array_filter($members, fn (Person $p): bool => $p->active && ! $p->away));
        $absent = implode('', array_map(fn (Person $p): string => sprintf('; %s is %s', $p->name, $p->active ? 'away' : 'no longer active'), array_filter($members, fn (Person $p): bool => ! $p->active || $p->away)));
        if ($there === []) {
            throw new Misfit(sprintf('nobody of %s is there%s.', $this->team->name, $absent));
        }
        if ($this->way === 'least_loaded') {
            $open = array_map(fn (RecordType $t): array => array_keys(array_filter($t->states, fn (State $s): bool => $s->open)), array_filter($viewer->rulebook->types, fn (RecordType $t): bool => $t->isTicket));
            $loads = $viewer->store->loads(array_map(fn (Person $p): string => $p->key, $there), $open);
            $least = array_reduce($there, fn (Person $best, Person $p): Person => $loads[$p->key] < $loads[$best->key] ? $p : $best, $there[0]);

            return Proposal::become($least->key, sprintf('fewest open: %s%s', implode(', ', array_map(fn (Person $p): string => $p->name.' '.$loads[$p->key], $there)), $absent));
        }
        $last = $viewer->store->lastTurn($this->team->key);
        $place = array_search($last, $this->team->members, true);
        $start = $place === false ? 0 : $place + 1;
        $order = [...array_slice($this->team->members, $start), ...array_slice($this->team->members, 0, $start)];
        $keys = array_map(fn (Person $p): string => $p->key, $there);
        $next = array_values(array_filter($order, fn (string $key): bool => in_array($key, $keys, true)))[0];

        return Proposal::become($next, ($last === null ? 'the first turn' : sprintf('the turn after %s', $viewer->rulebook->people[$last]->name ?? $last)).$absent, [$this->team->key => $next]);
    }
}
