<?php

declare(strict_types=1);

namespace Sorvel\App\Setup;

use Sorvel\Core\Engine\Cascade;
use Sorvel\Core\Engine\Event;
use Sorvel\Core\Engine\TraceLevel;
use Sorvel\Core\Impact\PastEvent;
use Sorvel\Core\Impact\WatchedStore;
use Sorvel\Core\Model\InMemoryStore;
use Sorvel\Core\Model\Rulebook;

/** The story is lived through in memory, as far back as one likes; each event on a ticket is kept as one of the past. */
final class PastStage implements Stage
{
    private readonly InMemoryStore $store;

    private readonly Cascade $cascade;

    public int $events = 0;

    /** @param  \Closure(PastEvent): void  $keep */
    public function __construct(private readonly Rulebook $rulebook, private readonly \Closure $keep, private readonly int $most)
    {
        $this->store = new InMemoryStore;
        $this->cascade = new Cascade($rulebook);
    }

    public function rulebook(): Rulebook
    {
        return $this->rulebook;
    }

    public function create(string $type, array $values, ?string $by, \DateTimeImmutable $at, ?string $id = null): string
    {
        $id ??= $this->store->newId($this->rulebook->types[$type]);
        $this->happen(Event::created($type, $id, $values, $by, $at->format(\DATE_ATOM)));

        return $id;
    }

    public function change(string $id, array $values, string $by, \DateTimeImmutable $at): bool
    {
        $record = $this->store->find($id);

        return $record !== null && $this->happen(Event::changed($record->type, $id, $values, $by, $at->format(\DATE_ATOM)));
    }

    public function rest(): void
    {
    }

    private function happen(Event $event): bool
    {
        $watched = new WatchedStore($this->store);
        $outcomes = $this->cascade->run($event, $watched, TraceLevel::Outcome);
        if ($outcomes[0]->isRefused()) {
            return false;
        }
        foreach ($outcomes as $outcome) {
            $this->store->save($outcome->record);
            foreach ($outcome->turns as $team => $person) {
                $this->store->takeTurn($team, $person);
            }
        }
        if ($this->rulebook->types[$event->type]->isTicket && $this->events < $this->most) {
            $this->events++;
            ($this->keep)(PastEvent::of($event, $outcomes[0], $watched));
        }

        return true;
    }
}
