<?php

declare(strict_types=1);

namespace Sorvel\App\Setup;

use Random\Engine\Mt19937;
use Random\Randomizer;
use Sorvel\App\Ask\Form;
use Symfony\Component\Yaml\Yaml;

/** What happens on the demo desk over some months: the same each time, told on a stage. */
final class DemoStory
{
    private const SEED = 4119;

    private Randomizer $random;

    /** @var array<string, list<mixed>> */
    private array $phrases;

    private \DateTimeImmutable $at;

    public function __construct(private readonly Stage $stage)
    {
    }

    /**
     * @param  int  $count  tickets
     * @param  int  $apart  minutes between one and the next
     */
    public function tell(string $folder, \DateTimeImmutable $now, int $count = 300, int $apart = 410): void
    {
        $this->random = new Randomizer(new Mt19937(self::SEED));
        $this->phrases = (array) Yaml::parseFile($folder.'/phrases.yaml');
        foreach ((array) Yaml::parseFile($folder.'/records.yaml') as $type => $records) {
            foreach ($records as $record) {
                $id = $record['id'];
                unset($record['id']);
                $this->stage->create((string) $type, $record, null, $now->modify(sprintf('-%d minutes', $count * $apart + 20_000)), $id);
            }
        }
        for ($i = 0; $i < $count; $i++) {
            $this->at = $now->modify(sprintf('-%d minutes', ($count - $i) * $apart - $this->random->getInt(0, (int) ($apart * 0.73))));
            match ($this->pick(['fault', 'fault', 'fault', 'fault', 'quay', 'request', 'request', 'proposal', 'refit'])) {
                'fault' => $this->fault($this->pick($this->phrases['fault']), ['vessel' => $this->pick(['V-01', 'V-02', 'V-03', 'V-04', 'V-05', 'V-06', 'V-07'])]),
                'quay' => $this->fault($this->pick($this->phrases['quay_fault']), ['quay' => $this->pick(['Q-1', 'Q-2', 'Q-3', 'Q-4', 'Q-5'])]),
                'request' => $this->request($this->pick($this->phrases['request'])),
                'proposal' => $this->proposal($this->pick($this->phrases['proposal'])),
                default => $this->refit($this->pick($this->phrases['refit_task'])),
            };
            $this->stage->rest();
        }
    }

    /**
     * @param  array<string, mixed>  $phrase
     * @param  array<string, mixed>  $where
     */
    private function fault(array $phrase, array $where): void
    {
        $hours = $this->pick([0.5, 1, 2, 3.5, 5, 6, 8, 12, 26, 30]);
        $part = $this->chance(60) ? array_intersect_key($phrase, ['part' => 1]) : [];
        $values = [...$where, 'title' => $phrase['title'], 'impact' => $phrase['impact'], 'hours_down' => $hours, 'stopped_since' => $this->at->modify(sprintf('-%d minutes', (int) ($hours * 60)))->format(\DATE_ATOM), ...array_intersect_key($phrase, ['safety' => 1, 'details' => 1, 'spot' => 1, 'found_by' => 1, 'area' => 1]), ...$part];
        $id = $this->create('fault', $values);
        $this->walk($id, [['logged', 25], ['under_way', 60], [$this->pick(['fixed', 'waiting_for_parts']), 70], ['closed', 55]]);
    }

    /** @param  array<string, mixed>  $phrase */
    private function request(array $phrase): void
    {
        [$least, $most] = $phrase['people'];
        $id = $this->create('request', ['title' => $phrase['title'], 'need' => $phrase['need'], 'people_affected' => $this->random->getInt($least, $most), 'needed_soon' => $this->chance(25)]);
        $this->walk($id, [['asked', 25], ['in_hand', 65], [$this->chance(85) ? 'done' : 'declined', 75]]);
    }

    private function proposal(string $title): void
    {
        $answers = ['benefit' => $this->pick(['none', 'time', 'money', 'passengers']), 'safety_gain' => $this->pick(['no', 'somewhat', 'clearly']), 'effort' => $this->pick(['days', 'weeks', 'months']), 'vessels_reached' => $this->random->getInt(1, 7)];
        if ($this->chance(15)) {
            unset($answers['effort']);
        }
        $id = $this->create('proposal', ['title' => $title, ...$answers]);
        $this->walk($id, [['written', 40], ['weighed', 60], [$this->chance(50) ? 'taken_up' : 'set_aside', 50]]);
    }

    private function refit(string $title): void
    {
        $id = $this->create('refit_task', ['title' => $title, 'vessel' => $this->pick(['V-02', 'V-04', 'V-05']), 'yard' => $this->pick(['C-1', 'C-2']), ...($this->chance(40) ? ['part' => $this->pick(['PT-01', 'PT-02', 'PT-03', 'PT-05'])] : [])]);
        $this->walk($id, [['planned', 30], ['parts_in', 70], ['fitting', 70], ['sea_trial', 60], ['handed_over', 50]]);
    }

    /** @param  array<string, mixed>  $values */
    private function create(string $type, array $values): string
    {
        $by = $this->pick(['rafi', 'lena', 'bram', 'juno', 'alva', 'otto', 'sol', 'kit', 'dirk', 'mats']);

        $fields = $this->stage->rulebook()->types[$type]->fields;
        if ($by === 'kit') {
            // a requester is asked less than the staff
            $values = array_filter($values, fn (string $key): bool => Form::isAsked($fields[$key]), ARRAY_FILTER_USE_KEY);
        }

        return $this->stage->create($type, ['requester' => $by, ...$values], $by, $this->at);
    }

    /**
     * Moves from state to state, each with its chance in a hundred, hours apart.
     *
     * @param  list<array{string, int}>  $states
     */
    private function walk(string $id, array $states): void
    {
        $by = $this->pick(['ines', 'tomas', 'oda', 'hanne', 'greta', 'priya']);
        $now = 'first';
        foreach (array_slice($states, 1) as [$state, $chance]) {
            if (! $this->chance($chance) || ($now === 'waiting_for_parts' && $state === 'closed')) {
                return;
            }
            $this->at = $this->at->modify(sprintf('+%d minutes', $this->random->getInt(20, 400)));
            if (! $this->stage->change($id, ['state' => $state], $state === 'handed_over' ? 'hanne' : $by, $this->at)) {
                // a rule turned it down, and whoever tried leaves it as it is
                return;
            }
            $now = $state;
        }
    }

    private function chance(int $inAHundred): bool
    {
        return $this->random->getInt(1, 100) <= $inAHundred;
    }

    /**
     * @template T
     *
     * @param  list<T>  $from
     * @return T
     */
    private function pick(array $from): mixed
    {
        return $from[$this->random->getInt(0, count($from) - 1)];
    }
}
