<?php

declare(strict_types=1);

namespace Sorvel\Core\Replay;

use Sorvel\Core\Engine\Cascade;
use Sorvel\Core\Engine\Engine;
use Sorvel\Core\Engine\Event;
use Sorvel\Core\Engine\Message;
use Sorvel\Core\Engine\Outcome;
use Sorvel\Core\Engine\RuleStatus;
use Sorvel\Core\Engine\Schedule;
use Sorvel\Core\Engine\TraceLevel;
use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Feel\MapScope;
use Sorvel\Core\Feel\UnaryTests;
use Sorvel\Core\Feel\Values;
use Sorvel\Core\Feel\Warnings;
use Sorvel\Core\Format\InputError;
use Sorvel\Core\Format\RulebookBuilder;
use Sorvel\Core\Format\SampleBuilder;
use Sorvel\Core\Model\InMemoryStore;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Rulebook;
use Sorvel\Core\Model\Viewer;
use Sorvel\Core\Tally\Tallies;

/** Replays samples: each in a fresh store, on its own clock. The same sample gives the same bytes each time. */
final class SampleRunner
{
    private readonly Cascade $cascade;

    private string $clock = '';

    private int $events = 0;

    private int $queries = 0;

    /** @var list<array{string, string}> calls that wait for an answer: key and record */
    private array $calls = [];

    private readonly Engine $engine;

    /** @param  array<string, list<Formula>>  $probes  by rule: formulas to evaluate where that rule looks */
    public function __construct(private readonly Rulebook $rulebook, private readonly ?Coverage $coverage = null, private readonly array $probes = [])
    {
        $this->cascade = new Cascade($rulebook);
        $this->engine = new Engine($rulebook);
    }

    public function run(Sample $sample, TraceLevel $level = TraceLevel::Outcome): SampleResult
    {
        if ($sample->lines !== []) {
            return $this->lines($sample, $level);
        }
        $strangers = SampleBuilder::strangers($sample, $this->rulebook);
        if ($strangers !== []) {
            return $this->broken($sample, array_map(fn (InputError $e): string => $e->path.': '.$e->message, $strangers));
        }
        $store = new InMemoryStore;
        $misfits = $this->give($sample, $store);
        if ($misfits !== []) {
            return $this->broken($sample, $misfits);
        }
        $this->clock = $sample->clock;
        $this->events = 0;
        $this->queries = 0;
        $this->calls = [];
        $steps = [];
        $rules = [];
        $known = [];
        foreach ($sample->given as $records) {
            array_push($known, ...array_map(fn (array $r): string => (string) $r['id'], $records));
        }
        foreach ($sample->steps as $step) {
            $result = $this->step($step, $store, $level, $known);
            foreach ($result->rules as $rule => $status) {
                $rules[$rule] = isset($rules[$rule]) ? $rules[$rule]->and($status) : $status;
            }
            $steps[] = $result;
        }
        $agrees = array_filter($steps, fn (StepResult $s): bool => $s->differences !== []) === [];

        return new SampleResult($sample->key, $agrees ? Verdict::Agrees : Verdict::Differs, [], $steps, $rules, [], $this->events, $this->queries);
    }

    /** The same story once a line; in full only the one that is shown. */
    private function lines(Sample $sample, TraceLevel $level): SampleResult
    {
        $results = array_map(fn (Sample $line): SampleResult => $this->run($line), $sample->lines);
        $shown = 0;
        $rules = [];
        $verdict = Verdict::Agrees;
        foreach ($results as $i => $result) {
            if ($result->verdict !== Verdict::Agrees && $results[$shown]->verdict === Verdict::Agrees) {
                $shown = $i;
            }
            $verdict = match (true) {
                $verdict === Verdict::Broken || $result->verdict === Verdict::Broken => Verdict::Broken,
                $verdict === Verdict::Differs || $result->verdict === Verdict::Differs => Verdict::Differs,
                default => Verdict::Agrees,
            };
            foreach ($result->rules as $rule => $status) {
                $rules[$rule] = isset($rules[$rule]) ? $rules[$rule]->and($status) : $status;
            }
        }
        $steps = $level === TraceLevel::Full ? (new self($this->rulebook, null, $this->probes))->run($sample->lines[$shown], $level)->steps : $results[$shown]->steps;

        return new SampleResult($sample->key, $verdict, $results[$shown]->broken, $steps, $rules, $results, (int) array_sum(array_map(fn (SampleResult $r): int => $r->events, $results)), (int) array_sum(array_map(fn (SampleResult $r): int => $r->queries, $results)));
    }

    /** @param  list<string>  $why */
    private function broken(Sample $sample, array $why): SampleResult
    {
        return new SampleResult($sample->key, Verdict::Broken, $why, [], []);
    }

    /** @return list<string> values that do not fit */
    private function give(Sample $sample, InMemoryStore $store): array
    {
        $misfits = [];
        foreach ($sample->given as $type => $records) {
            foreach ($records as $record) {
                $store->save(new Record((string) $record['id'], (string) $type, []));
            }
        }
        $viewer = new Viewer($this->rulebook, $store);
        foreach ($sample->given as $typeKey => $records) {
            $type = $this->rulebook->types[$typeKey];
            foreach ($records as $i => $values) {
                $record = $this->blank((string) $values['id'], $type);
                unset($values['id']);
                foreach ($values as $key => $value) {
                    $field = $type->fields[$key];
                    try {
                        $record = $record->with((string) $key, Record::isEmpty($value) ? null : $field->kind->fit($value, $field, $viewer, byRule: false));
                    } catch (Misfit $misfit) {
                        $misfits[] = sprintf('/given/%s/%d/%s: %s', $typeKey, $i, $key, $misfit->getMessage());
                    }
                }
                $store->save($record);
            }
        }

        foreach ($sample->given as $records) {
            foreach ($records as $values) {
                $record = $store->find((string) $values['id']);
                if ($record !== null) {
                    $store->save($this->engine->derived($record, $store, $sample->clock));
                }
            }
        }

        $tallies = new Tallies($this->rulebook);
        foreach ($tallies->isEmpty() ? [] : $sample->given as $records) {
            foreach ($records as $values) {
                $record = $store->find((string) $values['id']);
                foreach ($record === null ? [] : $this->rulebook->types[$record->type]->fields as $field) {
                    if ($field->tally !== null && $record !== null) {
                        foreach ($tallies->recounted($field, $record, $store) as $key => $value) {
                            $record = $record->with($key, $value);
                        }
                        $store->save($record);
                    }
                }
            }
        }

        return $misfits;
    }

    private function blank(string $id, RecordType $type): Record
    {
        $record = new Record($id, $type->key, []);

        return $type->isTicket ? $record->with('number', $id)->with('state', $type->firstState()) : $record;
    }

    /** @param  list<string>  $known ids to show the values of */
    private function step(Step $step, InMemoryStore $store, TraceLevel $level, array &$known): StepResult
    {
        $differences = [];
        $outcomes = [];
        $done = [];
        for ($i = 1; $i <= $step->repeat; $i++) {
            $before = array_map(fn (string $id): ?Record => $store->find($id), array_combine($step->expect->unchanged, $step->expect->unchanged));
            $outcomes = [];
            $first = null;
            foreach ($this->events($step, $i, $store) as $event) {
                $first ??= $event;
                array_push($outcomes, ...$this->happen($event, $store, $level));
            }
            $done = $this->done($outcomes);
            $aliases = $first !== null && $step->as !== null && $first->id !== $step->as ? [$step->as => $first->id] : [];
            if ($i === 1 || $differences === []) {
                $result = new StepResult($outcomes, [], []);
                $differences = [...$this->compare($step->expect, $result, $store, $aliases), ...$this->unchanged($before, $store), ...$this->compareDone($step->expect, $done)];
                if ($first === null && $step->kind === StepKind::Answer) {
                    $differences[] = new Difference(null, 'answer', $step->target, 'no such call was made');
                }
            }
            if ($i === 1 && $first !== null && $step->kind !== StepKind::Clock) {
                $known[] = $first->id;
            }
        }
        array_push($known, ...array_map(fn (Outcome $o): string => $o->record->id, array_slice($outcomes, 0, 50)));
        $values = [];
        foreach (array_unique($known) as $id) {
            $record = $store->find($id);
            if ($record !== null) {
                $values[$id] = Record::json($record->values);
            }
        }

        return new StepResult($outcomes, $differences, $values, $done);
    }

    /** @return non-empty-list<Outcome> */
    private function happen(Event $event, InMemoryStore $store, TraceLevel $level): array
    {
        $store->anew();
        $asked = $store->queries();
        $outcomes = $this->cascade->run($event, $store, $level, $this->probes);
        $this->queries += $store->queries() - $asked;
        $this->events += count($outcomes);
        foreach ($outcomes as $outcome) {
            if ($outcome->deleted) {
                $store->delete($outcome->record->id);
            } elseif (! $outcome->isRefused()) {
                $store->save($outcome->record);
            }
            foreach ($outcome->turns as $team => $person) {
                $store->takeTurn($team, $person);
            }
            foreach ($outcome->actions as $action) {
                if ($action->kind === 'call' && is_string($action->data['call'] ?? null)) {
                    $this->calls[] = [$action->data['call'], $action->record];
                }
            }
            $this->coverage?->take($outcome);
        }

        return $outcomes;
    }

    /** @return list<Event> one; for a clock step one for each record that a schedule is for; none when nothing waits for an answer */
    private function events(Step $step, int $repetition, InMemoryStore $store): array
    {
        $typeOf = fn (string $id): string => $store->find($id)->type ?? '';
        switch ($step->kind) {
            case StepKind::Clock:
                $schedule = new Schedule($this->rulebook);
                $zone = new \DateTimeZone($this->rulebook->timezone);
                [$from, $this->clock] = [$this->clock, $step->target];
                $due = $schedule->due(new \DateTimeImmutable($from, $zone), new \DateTimeImmutable($step->target, $zone));

                return $schedule->events($due, $store, $this->clock);
            case StepKind::Change:
                return [Event::changed($typeOf($step->target), $step->target, $step->with, $step->by, $this->clock)];
            case StepKind::Delete:
                return [Event::deleted($typeOf($step->target), $step->target, $step->by, $this->clock)];
            case StepKind::ByHand:
                return [Event::byHand($typeOf((string) $step->on), (string) $step->on, $step->target, $step->with, $step->by, $this->clock)];
            case StepKind::Answer:
                foreach ($this->calls as $i => [$call, $record]) {
                    if ($call === $step->target && ($step->on === null || $step->on === $record)) {
                        array_splice($this->calls, $i, 1);

                        return $store->find($record) === null ? [] : [Event::answered($typeOf($record), $record, $call, is_int($step->data['status'] ?? null) ? $step->data['status'] : null, $step->data['body'] ?? null, $this->clock)];
                    }
                }

                // a story may begin after the call was made
                return $step->on === null || $store->find($step->on) === null ? [] : [Event::answered($typeOf($step->on), $step->on, $step->target, is_int($step->data['status'] ?? null) ? $step->data['status'] : null, $step->data['body'] ?? null, $this->clock)];
            case StepKind::Receive:
                $text = fn (string $key): ?string => is_string($step->data[$key] ?? null) ? $step->data[$key] : null;
                $message = new Message((string) $text('from'), (string) $text('subject'), $text('text'), $text('html'));
                $writer = $message->writer($this->rulebook)?->key;
                if ($text('opens') === null) {
                    return [Event::received($typeOf($step->target), $step->target, $message, $step->with, $writer, $this->clock)];
                }
                $type = $this->rulebook->types[$step->target];

                return [Event::received($type->key, $step->as ?? $store->newId($type), $message, [...$message->opening($type, $this->rulebook), ...$step->with], $writer, $this->clock)];
            default:
                $type = $this->rulebook->types[$step->target];
                $id = $step->as === null || $repetition > 1 ? $store->newId($type) : $step->as;

                return [Event::created($type->key, $id, $step->with, $step->by, $this->clock)];
        }
    }

    /**
     * @param  list<Outcome>  $outcomes
     * @return array<'messages'|'calls'|'created'|'notes'|'notices', list<array<string, mixed>>>
     */
    private function done(array $outcomes): array
    {
        $done = ['messages' => [], 'calls' => [], 'created' => [], 'notes' => [], 'notices' => []];
        foreach ($outcomes as $i => $outcome) {
            if ($i > 0 && $outcome->before === null) {
                $done['created'][] = ['type' => $outcome->record->type, 'id' => $outcome->record->id, 'with' => Record::json($outcome->record->values)];
            }
            foreach ($outcome->actions as $action) {
                $told = ['rule' => $action->rule, 'on' => $action->record, ...$action->data];
                match ($action->kind) {
                    'message' => $done['messages'][] = $told,
                    'call' => $done['calls'][] = $told,
                    'note' => $done['notes'][] = $told,
                    'notify' => $done['notices'][] = $told,
                    default => null,
                };
            }
        }

        return $done;
    }

    /**
     * @param  array<string, Record|null>  $before
     * @return list<Difference>
     */
    private function unchanged(array $before, InMemoryStore $store): array
    {
        $differences = [];
        foreach ($before as $id => $was) {
            $now = $store->find((string) $id);
            if ($was?->fingerprint() !== $now?->fingerprint()) {
                $fields = array_filter(array_unique([...array_keys($was->values ?? []), ...array_keys($now->values ?? [])]), fn (string $f): bool => ! Record::same($was?->value($f), $now?->value($f)));
                $differences[] = new Difference(null, 'unchanged', (string) $id, array_values($fields));
            }
        }

        return $differences;
    }

    /**
     * @param  array<string, list<array<string, mixed>>>  $done
     * @return list<Difference>
     */
    private function compareDone(Expectation $expect, array $done): array
    {
        $differences = [];
        foreach ($expect->done as $what => $expected) {
            $actual = $done[$what];
            $fits = count($expected) === count($actual);
            foreach ($fits ? array_keys($expected) : [] as $i) {
                $fits = $fits && self::isAsExpected($what, $expected[$i], $actual[$i]);
            }
            if (! $fits) {
                $differences[] = new Difference(null, $what, $expected, array_map(fn (array $a): array => array_diff_key($a, ['rule' => 1, 'headers' => 1, 'method' => 1]), $actual));
            }
        }

        return $differences;
    }

    /**
     * @param  array<string, mixed>  $expected
     * @param  array<string, mixed>  $actual
     */
    private static function isAsExpected(string $what, array $expected, array $actual): bool
    {
        foreach ($expected as $key => $value) {
            $text = $actual['text'] ?? $actual['body'] ?? '';
            $fits = match ($key) {
                'contains' => is_string($value) && is_string($text) && str_contains($text, $value),
                'to', 'people' => array_values((array) $value) === $actual[$key],
                'with', 'body' => self::holds($value, $actual[$key] ?? null),
                default => $value === ($actual[$key] ?? null),
            };
            if (! $fits) {
                return false;
            }
        }

        return true;
    }

    /** Whether all that is expected stands in what is there; maps may have more. */
    private static function holds(mixed $expected, mixed $actual): bool
    {
        if (is_array($expected) && is_array($actual) && ! array_is_list($expected)) {
            foreach ($expected as $key => $value) {
                if (! array_key_exists($key, $actual) || ! self::holds($value, $actual[$key])) {
                    return false;
                }
            }

            return true;
        }

        return $expected === $actual || (is_numeric($expected) && is_numeric($actual) && (float) $expected === (float) $actual);
    }

    /**
     * @param  array<string, string>  $aliases  an id as the sample names it, to the record it stands for now
     * @return list<Difference>
     */
    private function compare(Expectation $expect, StepResult $result, InMemoryStore $store, array $aliases): array
    {
        $differences = [];
        foreach ($expect->records as $id => $fields) {
            $record = $store->find($aliases[$id] ?? (string) $id);
            foreach ($fields as $key => $expected) {
                $actual = $record?->value((string) $key);
                if ($record === null || ! $this->fits($expected, $actual, $record, (string) $key, $store)) {
                    $differences[] = new Difference((string) $id, (string) $key, $expected, Record::plain($actual));
                }
            }
        }
        foreach ($expect->acted as $rule) {
            $status = $result->rules[$rule] ?? null;
            if ($status === null || ! $status->reachedRow() || $status === RuleStatus::Problem && ! in_array($rule, $expect->problems, true)) {
                $differences[] = new Difference(null, 'acted', $rule, $status->value ?? 'not due');
            }
        }
        foreach ($expect->still as $rule) {
            $status = $result->rules[$rule] ?? null;
            if ($status?->reachedRow() === true) {
                $differences[] = new Difference(null, 'still', $rule, $status->value);
            }
        }
        $problems = array_values(array_unique(array_map(fn (array $p): string => $p['rule'] ?? 'desk', $result->problems)));
        if (array_diff($problems, $expect->problems) !== [] || array_diff($expect->problems, $problems) !== []) {
            $differences[] = new Difference(null, 'problems', $expect->problems, $problems);
        }

        return [...$differences, ...$this->refusal($expect->refused, $result->outcome)];
    }

    /** @return list<Difference> */
    private function refusal(bool|string|null $expected, ?Outcome $outcome): array
    {
        $reasons = array_column($outcome->refused ?? [], 'reason');
        $fits = match (true) {
            is_string($expected) => array_filter($reasons, fn (string $r): bool => str_contains($r, $expected)) !== [],
            default => ($expected ?? false) === ($outcome?->isRefused() ?? false),
        };

        return $fits ? [] : [new Difference(null, 'refused', $expected ?? false, $reasons === [] ? false : implode(' ', $reasons))];
    }

    private function fits(mixed $expected, mixed $actual, Record $record, string $key, InMemoryStore $store): bool
    {
        if (is_array($expected) && array_keys($expected) === ['test']) {
            $viewer = new Viewer($this->rulebook, $store);
            $field = $this->rulebook->types[$record->type]->fields[$key];
            $seen = $actual === null ? null : $field->kind->seen($actual, $field, $viewer, '');

            return UnaryTests::parse(RulebookBuilder::text($expected['test']))->hold($seen, new MapScope, new Warnings) === true;
        }
        $field = $this->rulebook->types[$record->type]->fields[$key];
        $value = Values::fromJson($expected);
        if (! $field->isPlain && ! Record::isEmpty($expected)) {
            // a moment or a duration can be written in several ways
            try {
                $value = $field->kind->fit($expected, $field, new Viewer($this->rulebook, $store), byRule: false);
            } catch (Misfit) {
                // then it is compared as it stands, and differs
            }
        }
        if (is_array($value) && is_array($actual)) {
            sort($value);
            sort($actual);
        }

        return Record::same($value, $actual);
    }
}
