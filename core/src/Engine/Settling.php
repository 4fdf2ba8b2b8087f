<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

use Sorvel\Core\Feel\EvaluationStopped;
use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Feel\Values;
use Sorvel\Core\Feel\Warnings;
use Sorvel\Core\Guard\Effect;
use Sorvel\Core\Guard\Guard;
use Sorvel\Core\Guard\Guards;
use Sorvel\Core\Guard\ParentChange;
use Sorvel\Core\Mirror\Course;
use Sorvel\Core\Mirror\Following;
use Sorvel\Core\Model\Kind\DateTimeKind;
use Sorvel\Core\Model\Reads;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Viewer;
use Sorvel\Core\Rule\FieldChange;
use Sorvel\Core\Rule\Moment;
use Sorvel\Core\Rule\Repeat;
use Sorvel\Core\Rule\Rule;

/** The passes of one event, until no rule is due or a circle is found (3 to 6 of "One event"). */
final class Settling
{
    private readonly EventScope $scope;

    private readonly Record $arrived;

    /** Made when something has to follow that has not followed at once. */
    private ?Following $following = null;

    /** @var array<int, array<string, mixed>> by place of a rule, the values as it last left them */
    private array $left = [];

    /** @var list<array{field: string, before: mixed, after: mixed, rule: string|null}> */
    private array $changes = [];

    /** @var list<array{rule: string|null, field: string|null, message: string}> */
    private array $problems = [];

    /** @var array<string, RuleStatus> as far as it does not follow from the ways that looks took, {@see Hits} */
    private array $rules = [];

    /** @var array<string, array<int, int>> */
    private array $rows = [];

    /** @var array<string, array<int, array<int, int>>> */
    private array $cells = [];

    /** @var array<string, array<int, int>> */
    private array $tableRows = [];

    /** @var array<string, array{field: string, reason: string}> by guard */
    private array $refused = [];

    /** @var array<string, true> guards that emptied a field or turned the save down */
    private array $tripped = [];

    /** @var array<string, list<mixed>> what the probes came to, by rule */
    private array $probed = [];

    private readonly ?EventScope $past;

    /** Made when first needed. */
    private ?FieldWriter $writer = null;

    /** @var array<int, int> rules that may still be due in this pass, {@see Watchers} */
    private array $due;

    /** @var array<int, int> rules that may be due in the next pass */
    private array $next;

    /** @var list<Rule> enabled rules of the type, in running order */
    private array $all = [];

    private bool $isFirst = true;

    /** @var array<string, RuleLook> by rule, the last look that decided something */
    private array $looks = [];

    /** @var array<int, true> places of the rules that have a look that decides */
    private array $looked = [];

    /** @var array<string, array{int, int}> by rule: pass and place in it of its last look that decided something */
    private array $places = [];

    /** @var list<array{pass: int, rules: list<array<string, mixed>>}> */
    private array $passes = [];

    /** @var list<Action> */
    private array $actions = [];

    /** @var list<array<string, mixed>> what waited until the record had settled, for the trace */
    private array $waited = [];

    /** @var array<string, string> who was given a turn, by team */
    private array $turns = [];

    /** @var array<int, int> by place of a compiled rule, the way that its first look took through its rows */
    private array $ways = [];

    /** @var list<array{int, int}> place and way of further looks */
    private array $more = [];

    /** How many changes there were before the first rule looked. */
    private int $foundAt = 0;

    /** The compiled rule that is looking. */
    private ?Rule $planned = null;

    /** Whether the compiled rule that looked has had its turn before: what it wanted then still stands. */
    private bool $isOver = false;

    /** @var array<int, int> by place of a rule, how many changes there were after its last look */
    private array $sinceAt = [];

    /** How many changes there were when the record was as the event found it; for a creation, as it arrived. */
    private int $begunAt = 0;

    private readonly Course $course;

    private readonly Watchers $watchers;

    /** @var list<array{rule: string|null, field: string|null, message: string}> of its look */
    private array $lookProblems = [];

    /** @var list<string>|null the rules in a circle */
    private ?array $circle = null;

    /**
     * @param  array<string, list<Formula>>  $probes  by rule
     * @param  array<int, Plan>  $plans  compiled rules, by place
     * @param  array{\Closure, \Closure}|null  $passing  a pass over all of them, and the same in full, {@see PassCompiler}
     * @param  EventScope|null  $scope  in which it began
     * @param  Viewer|null  $past  who sees other records as they were before what led to this event; the same when left out
     */
    public function __construct(
        private readonly Event $event,
        private readonly RecordType $type,
        private readonly ?Record $before,
        Record $record,
        private readonly Viewer $viewer,
        private readonly Guards $guards,
        private readonly bool $full,
        private readonly array $probes = [],
        ?Viewer $past = null,
        private readonly array $plans = [],
        private readonly ?array $passing = null,
        private readonly Frame $frame = new Frame,
        private readonly ?Begun $begun = null,
        ?EventScope $scope = null,
    ) {
        $this->scope = $scope ?? new EventScope($event, $type, $before, $record, $viewer);
        $this->past = $before === null ? null : new EventScope($event, $type, $before, $before, $past ?? $viewer);
        $this->course = $viewer->rulebook->course($type->key);
        $this->watchers = $viewer->rulebook->watchers($type->key);
        $this->due = $this->next = $this->watchers->none;
        $this->changes = $begun === null ? self::differences($type, $before->values ?? [], $record->values) : $begun->changes;
        $event->orders === [] || $this->ordered();
        if ($begun === null || $begun->pending !== []) {
            array_push($this->changes, ...$this->following()->follow());
        } else {
            // what was read on the way belongs to no rule
            [$viewer->reads->values, $viewer->reads->tables] = [[], []];
        }
        $this->arrived = $this->scope->record();
        $this->begunAt = $before === null ? count($this->changes) : 0;
    }

    /**
     * @param  array<string, mixed>  $was  stored values
     * @param  array<string, mixed>  $is
     * @return list<array{field: string, before: mixed, after: mixed, rule: string|null}> what is told of it, in order of the type's fields
     */
    public static function differences(RecordType $type, array $was, array $is): array
    {
        $changes = [];
        foreach (array_intersect_key($type->told, $was === [] ? $is : $is + $was) as $field => $_) {
            $old = $was[$field] ?? null;
            $new = $is[$field] ?? null;
            if ($old !== $new && ! Record::same($old, $new)) {
                $changes[] = ['field' => $field, 'before' => is_object($old) ? Record::plain($old) : $old, 'after' => is_object($new) ? Record::plain($new) : $new, 'rule' => null];
            }
        }

        return $changes;
    }

    private function following(): Following
    {
        return $this->following ??= new Following($this->type, $this->course, $this->scope, $this->past, $this->viewer, $this->course->isPaired ? array_map(strval(...), array_keys($this->event->values)) : [], $this->frame, $this->begun);
    }

    private function writer(): FieldWriter
    {
        return $this->writer ??= new FieldWriter($this->type, $this->scope, $this->viewer, $this->guards);
    }

    /** What rules on other records want of this one. */
    private function ordered(): void
    {
        foreach ($this->event->orders as $order) {
            $written = $this->writer()->write($order->change, $order->cell, fn (): mixed => null);
            $this->turns = [...$this->turns, ...$written->turns];
            if ($written->problem !== null) {
                $this->problems[] = ['rule' => $order->rule, 'field' => $written->field->key, 'message' => sprintf('%s: %s', $this->event->id, $written->problem)];
            }
            if ($written->isMade) {
                $this->changes[] = $written->told($order->rule);
            }
        }
    }

    public function record(): Record
    {
        return $this->scope->record();
    }

    /** @param  list<Rule>  $rules enabled rules of the type, in running order */
    public function settle(array $rules): void
    {
        if ($rules === []) {
            return;
        }
        $this->all = $rules;
        $this->foundAt = count($this->changes);
        $this->awake();
        /** @var array<int, array{Record, list<string>, int}> $ends by pass: the record, the rules that changed it, how many changes there were */
        $ends = [];
        for ($pass = 1; ; $pass++) {
            $changed = $this->pass($pass);
            if ($changed === null) {
                break;
            }
            if ($changed === []) {
                continue;
            }
            $ends[$pass] = [$this->record(), $changed, count($this->changes)];
            $first = self::sameAsBefore($ends, $pass);
            if ($first !== null || $pass >= self::max()) {
                $this->stopAt($ends, $first ?? 1, $first !== null);
                break;
            }
        }
        $this->conclude($rules);
    }

    /**
     * The earlier pass that ended in the state of this one; null when none did.
     *
     * @param  array<int, array{Record, list<string>, int}>  $ends
     */
    private static function sameAsBefore(array $ends, int $pass): ?int
    {
        $now = $ends[$pass][0];
        foreach ($ends as $number => [$record]) {
            if ($number < $pass && count($record->values) === count($now->values) && $record->fingerprint() === $now->fingerprint()) {
                return $number;
            }
        }

        return null;
    }

    private static function max(): int
    {
        return Engine::MAX_PASSES;
    }

    /** Which rules the event may make due: those that start on its kind, and those that watch what it has changed. */
    private function awake(): void
    {
        $starting = $this->watchers->starting;
        $kinds = [$this->event->kind->value, ...($this->before === null && $this->event->kind !== EventKind::Created ? ['created'] : []), ...($this->event->related === [] ? [] : ['related'])];
        $this->due = $starting[$kinds[0]];
        foreach (array_slice($kinds, 1) as $kind) {
            foreach ($starting[$kind] as $word => $bits) {
                $this->due[$word] |= $bits;
            }
        }
        // what a record is created with is no change
        foreach ($this->before === null ? [] : $this->changes as $change) {
            $this->watchers->wake($change['field'], -1, $this->due, $this->next);
        }
    }

    /** @return list<string>|null the rules that changed something; null when none was due */
    private function pass(int $pass): ?array
    {
        $this->isFirst = $pass === 1;
        $passes = $this->passing;
        if ($passes !== null) {
            [$due, $changed] = ($this->full ? $passes[1] : $passes[0])($this, $this->scope, $this->due, $this->next, $this->changes, $this->ways, $this->more, $this->sinceAt, $this->left, $this->isFirst && $this->before === null);
        } else {
            [$due, $changed] = [$this->full ? [] : false, []];
            foreach ($this->all as $place => $_) {
                [$word, $bit] = Watchers::at($place);
                if (($this->due[$word] & $bit) !== 0) {
                    $this->walk($place, $due, $changed);
                }
            }
        }
        $this->due = $this->next;
        $this->next = $this->watchers->none;
        if ($due === [] || $due === false) {
            return null;
        }
        if (is_array($due)) {
            /** @var list<array<string, mixed>> $due */
            $this->passes[] = ['pass' => $pass, 'rules' => $due];
        }

        return $changed;
    }

    /**
     * A rule that may be due, on its own.
     *
     * @param  list<array<string, mixed>>|bool  $due
     * @param  list<string>  $changed
     */
    public function walk(int $place, array|bool &$due, array &$changed): void
    {
        $plan = $this->plans[$place] ?? null;
        $rule = $this->all[$place];
        $isMade = $this->isFirst && $this->before === null;
        if ($plan !== null && $plan->isPlain && ! $this->full) {
            if (! $plan->isDue($isMade, $this->changes, $this->sinceAt[$place] ?? $this->begunAt, $this->scope->values)) {
                return;
            }
            $why = [];
        } else {
            $why = $isMade && $plan !== null && $plan->createdFirst ? ['kind' => 'created'] : $this->why($place);
            if ($why === null) {
                return;
            }
        }
        $count = count($this->changes);
        $told = is_array($due) ? count($due) : 0;
        $trace = $plan === null ? null : $this->planned($plan, $place, $told);
        if ($trace === null) {
            $this->probe($rule);
            $look = new RuleLook($rule, $this->scope, $this->past, $this->viewer, $this->writer(), $this->full);
            $look->run();
            $trace = $look->trace;
            $this->take($rule->key, $look);
            if (! $look->isOver || $look->rows !== []) {
                $this->looks[$rule->key] = $look;
                $this->looked[$place] = true;
                $this->places[$rule->key] = [count($this->passes), $told];
            }
        }
        if (is_array($due)) {
            $due[] = ['rule' => $rule->key, 'why' => $why, ...$trace];
        } else {
            $due = true;
        }
        $this->left[$place] = $this->scope->values;
        $this->sinceAt[$place] = count($this->changes);
        if ($this->sinceAt[$place] > $count) {
            $changed[] = $rule->key;
            $this->follow($rule->key, $count, $place);
        }
    }

    /**
     * What follows from the changes that a rule made.
     *
     * @param  int  $from  how many changes there were before it
     * @param  int|null  $woken  up to where those who watch them are woken already
     */
    public function follow(string $rule, int $from, int $place, ?int $woken = null): void
    {
        $made = count($this->changes);
        $course = $this->course;
        $limits = [];
        for ($i = $from; $i < $made; $i++) {
            $field = $this->changes[$i]['field'];
            $this->following()->changed($field);
            $limits += $course->limits($field);
        }
        $limits === [] || $this->limit($rule, $limits);
        array_push($this->changes, ...$this->following()->follow());
        for ($i = $woken ?? $from, $made = count($this->changes); $i < $made; $i++) {
            $this->watchers->wake($this->changes[$i]['field'], $place, $this->due, $this->next);
        }
    }

    /**
     * A look of a compiled rule.
     *
     * @param  int  $told  how many looks of this pass have been told before it
     * @return array<string, mixed>|null what it tells, in full; null when it has to be walked after all, and nothing of it stands
     */
    private function planned(Plan $plan, int $place, int $told): ?array
    {
        $count = count($this->changes);
        $values = $this->scope->values;
        $turns = $this->turns;
        if ($plan->rule->repeat === Repeat::Once && $this->isSpent($plan->rule->key)) {
            return ['skipped' => RuleLook::ACTED, 'status' => RuleStatus::Looked->value];
        }
        $found = $this->looks($place);
        $trace = [];
        try {
            $path = $this->full
                ? ($plan->telling)($this->scope, $found, $this, $this->viewer->reads, $trace, $this->changes)
                : ($plan->look)($this->scope, $found, new Warnings, $this, $this->changes);
        } catch (EvaluationStopped) {
            $this->scope->becomes(new Record($this->event->id, $this->type->key, $values));
            $this->changes = array_slice($this->changes, 0, $count);
            $this->turns = $turns;

            return null;
        }
        $this->ended($place, $path, Ways::fits($plan->rule, $path), $count, $found, $trace, $told);

        return $trace;
    }

    /** Whether a rule that acts once has acted on this record; then it has had its turn. */
    public function isSpent(string $key): bool
    {
        if (! in_array($key, (array) ($this->scope->values[Record::ONCE] ?? null), true)) {
            return false;
        }
        $this->rules[$key] = isset($this->rules[$key]) ? $this->rules[$key]->and(RuleStatus::Looked) : RuleStatus::Looked;

        return true;
    }

    /** A compiled rule begins to look; its names are found in what is given. */
    public function looks(int $place): LookScope|EventScope
    {
        $plan = $this->plans[$place];
        $this->planned = $plan->rule;
        $this->isOver = false;
        $this->lookProblems = [];
        $this->full && $this->viewer->reads->take();

        return $plan->hasLookUps ? new LookScope($plan->rule, $this->scope, $this->viewer, $this->full, $plan->finds) : $this->scope;
    }

    public function reads(): Reads
    {
        return $this->viewer->reads;
    }

    /**
     * The look of a compiled rule is over.
     *
     * @param  int  $path  the way that it took
     * @param  bool  $fits  whether a row fitted on it
     * @param  int  $count  how many changes there were before it
     * @param  array<string, mixed>  $trace  what it tells, in full
     * @param  int  $told  how many looks of this pass have been told before it
     */
    public function ended(int $place, int $path, bool $fits, int $count, LookScope|EventScope $found, array &$trace = [], int $told = 0): void
    {
        $plan = $this->plans[$place];
        $rule = $plan->rule;
        $key = $rule->key;
        $status = ! $fits ? RuleStatus::Looked : (count($this->changes) > $count ? RuleStatus::Acted : RuleStatus::NoEffect);
        if ($this->lookProblems !== []) {
            $status = $this->problematic($fits);
        }
        $this->rules[$key] = isset($this->rules[$key]) ? $this->rules[$key]->and($status) : $status;
        if (isset($this->ways[$place])) {
            $this->more[] = [$place, $path];
        } else {
            $this->ways[$place] = $path;
        }
        $found = $found instanceof LookScope ? $found : null;
        if ($this->full) {
            $trace['look_ups'] = $found?->trace() ?? [];
            $trace['status'] = $status->value;
            $this->hit($found?->tables() ?? []);
            if (! $this->isOver) {
                $this->places[$key] = [count($this->passes), $told];
            }
        } elseif ($plan->reads) {
            $reads = $this->viewer->reads;
            $reads->values = [];
            $this->hit($reads->tables);
            $reads->tables = [];
        }
        if (! $this->isOver && ! ($plan->waits && $fits)) {
            // the last look decides, and this one wants nothing
            unset($this->looks[$key], $this->looked[$place]);
        } elseif (! $this->isOver) {
            $look = new RuleLook($rule, $this->scope, $this->past, $this->viewer, null, $this->full, $found, $plan->waiting);
            $look->cameTo($fits ? Ways::path($rule, $path)[0] : [], $status, $this->lookProblems);
            $this->looks[$key] = $look;
            $this->looked[$place] = true;
        }
    }

    /** @param  list<array{table: string, inputs: list<mixed>, rows: list<int>, value: mixed}>  $calls  of tables */
    private function hit(array $calls): void
    {
        foreach ($calls as $call) {
            foreach ($call['rows'] as $row) {
                $this->tableRows[$call['table']][$row] = ($this->tableRows[$call['table']][$row] ?? 0) + 1;
            }
        }
    }

    /** @return array{reads: array<string, mixed>, tables: list<array{table: string, inputs: list<mixed>, rows: list<int>, value: mixed}>, warnings: list<array{message: string, from: int, to: int}>} what a formula of the compiled rule that is looking has read, plain data */
    public function read(Warnings $warnings): array
    {
        $seen = $this->viewer->reads->take();
        $this->hit($seen['tables']);
        $seen = Reads::plain($seen);
        $seen['warnings'] = $warnings->all();

        return $seen;
    }

    /**
     * A change by the compiled rule that is looking.
     *
     * @return array<string, mixed> plain data, but for what its formula read
     */
    public function told(int $row, int $column, mixed $value): array
    {
        [$change, $cell, $written] = $this->made($row, $column, $value);
        // what guards read is not what the formula read
        $this->viewer->reads->take();
        $told = $written->told('');

        return ['row' => $row, 'column' => $column, 'kind' => $change->kind(), 'field' => $change->field, 'formula' => $cell->source, 'cell' => Values::json($value), 'before' => $told['before'], 'after' => $told['after'], 'made' => $written->isMade, 'why' => $written->why, 'problem' => $written->problem];
    }

    /** Keeps the problems of the look of a compiled rule. */
    private function problematic(bool $fits): RuleStatus
    {
        foreach ($this->lookProblems as $problem) {
            in_array($problem, $this->problems, true) || $this->problems[] = $problem;
        }

        return $fits ? RuleStatus::Problem : RuleStatus::ProblemBefore;
    }

    /** Whether a row of the compiled rule that is looking held before the event already; then the rule has had its turn. */
    public function held(int $row): bool
    {
        $rule = $this->planned ?? throw new \LogicException('No rule is looking.');

        return $this->isOver = $this->past !== null && (new RuleLook($rule, $this->scope, $this->past, $this->viewer, null, false))->heldBefore($row);
    }

    /** Whether the event made the record. */
    public function isMade(): bool
    {
        return $this->past === null;
    }

    /** The compiled rule that is looking acts, and acts once. */
    public function once(): void
    {
        $this->scope->put(Record::ONCE, [...(array) ($this->scope->values[Record::ONCE] ?? null), $this->planned?->key]);
    }

    /** A look-up has ended the compiled rule that is looking. */
    public function skipped(SkipRule $skip): void
    {
        $skip->isProblem && $this->lookProblems[] = ['rule' => $this->planned?->key, 'field' => null, 'message' => $skip->getMessage()];
    }

    /** A look-up of a compiled rule finds nothing, and that ends the rule. @throws SkipRule */
    public function none(string $lookUp, bool $isProblem): never
    {
        throw new SkipRule($isProblem, LookScope::foundNothing($lookUp));
    }

    /** A change that a compiled rule leaves to the writer. */
    public function cell(int $row, int $column, mixed $value): void
    {
        $this->made($row, $column, $value);
    }

    /** @return array{FieldChange, Formula, Written} the change, its cell, and what it came to */
    private function made(int $row, int $column, mixed $value): array
    {
        $rule = $this->planned ?? throw new \LogicException('No rule is looking.');
        $change = $rule->immediate[$column];
        $cell = $rule->rows[$row]->then[$column] ?? throw new \LogicException('An empty cell changes nothing.');
        $written = $this->writer()->write($change, $value, fn (): mixed => $this->past === null ? null : $cell->value(new LookScope($rule, $this->past, $this->viewer), new Warnings));
        if ($written->turns !== []) {
            $this->turns = [...$this->turns, ...$written->turns];
        }
        if ($written->problem !== null) {
            $this->lookProblems[] = ['rule' => $rule->key, 'field' => $change->field, 'message' => $written->problem];
        }
        if ($written->isMade) {
            $this->changes[] = $written->told($rule->key);
        }

        return [$change, $cell, $written];
    }

    /**
     * What waited until the record had settled: the last look of each rule decides.
     *
     * @param  list<Rule>  $rules
     */
    private function conclude(array $rules): void
    {
        ksort($this->looked);
        foreach (array_keys($this->looked) as $at) {
            $rule = $rules[$at];
            $look = in_array($rule->key, $this->circle ?? [], true) ? null : $this->looks[$rule->key] ?? null;
            if ($look === null) {
                continue;
            }
            [$actions, $refused, $trace] = $look->conclude();
            [$pass, $place] = $this->places[$rule->key] ?? [-1, -1];
            if (isset($this->passes[$pass]['rules'][$place])) {
                // look-ups that only waiting cells read
                $this->passes[$pass]['rules'][$place] = [...$this->passes[$pass]['rules'][$place], ...$look->found()];
            }
            array_push($this->actions, ...$actions);
            array_push($this->waited, ...$trace);
            foreach ($refused as $i => $reason) {
                $this->refused[$rule->key.' '.$i] = ['field' => '', 'reason' => $reason];
            }
            $this->rules[$rule->key] = $this->rules[$rule->key]->and($look->status);
            foreach ($look->problems as $problem) {
                if (! in_array($problem, $this->problems, true)) {
                    $this->problems[] = $problem;
                }
            }
        }
    }

    /** A ticket that became another knows when. */
    public function stamp(): void
    {
        $field = $this->type->fields['changed_at'] ?? null;
        if ($field?->builtIn === true && $this->changes !== [] && $this->before !== null) {
            $this->scope->becomes($this->record()->with('changed_at', (new DateTimeKind)->fit($this->event->at, $field, $this->viewer, byRule: true)));
        }
    }

    /**
     * Rules that were not due are probed on the settled record; so is what belongs to no rule, under an empty key.
     *
     * @param  list<Rule>  $rules
     */
    public function probeRest(array $rules): void
    {
        if ($this->probes === []) {
            return;
        }
        if (isset($this->probes[''])) {
            $this->probed[''] = array_map(fn (Formula $formula): mixed => Values::json($formula->value($this->scope, new Warnings)), $this->probes['']);
            $this->viewer->reads->take();
        }
        foreach ($rules as $rule) {
            if (! isset($this->probed[$rule->key])) {
                $this->probe($rule);
            }
        }
    }

    private function probe(Rule $rule): void
    {
        if (! isset($this->probes[$rule->key])) {
            return;
        }
        $this->probed[$rule->key] = array_map(function (Formula $formula) use ($rule): mixed {
            try {
                return Values::json($formula->value(new LookScope($rule, $this->scope, $this->viewer), new Warnings));
            } catch (SkipRule) {
                return null;
            } finally {
                $this->viewer->reads->take();
            }
        }, $this->probes[$rule->key]);
    }

    /**
     * What a rule has changed may leave another field with a value that its limited choices no longer hold.
     *
     * @param  array<string, Guard>  $guards  on choices, that may say something else now; by key
     */
    private function limit(string $rule, array $guards): void
    {
        foreach (count($guards) === 1 ? $guards : $this->guards->of(Effect::Choices) as $limiting) {
            if (! isset($guards[$limiting->key])) {
                continue;
            }
            $field = $this->type->fields[$limiting->field];
            $value = $this->record()->value($field->key);
            $guard = $this->guards->against($field, $value, $this->scope);
            if ($guard?->onParentChange === ParentChange::Refuse) {
                $this->refused[$guard->key] = ['field' => $field->key, 'reason' => $guard->say($field)];
                $this->tripped[$guard->key] = true;
            } elseif ($guard?->onParentChange === ParentChange::Clear) {
                $this->scope->put($field->key, null);
                $this->changes[] = ['field' => $field->key, 'before' => Record::plain($value), 'after' => null, 'rule' => $rule];
                $this->following()->changed($field->key);
                $this->tripped[$guard->key] = true;
            }
        }
    }

    /** @return list<array{field: string, reason: string}> choices that rules left without ground, where that is not allowed */
    public function refused(): array
    {
        return array_values($this->refused);
    }

    /** Whether a compiled rule is due that only a creation and changes of fields start; it has been asked before, or the record was there. */
    public function isDue(int $place): bool
    {
        return $this->plans[$place]->isDue(false, $this->changes, $this->sinceAt[$place] ?? $this->begunAt, $this->scope->values);
    }

    /** @return array<string, mixed>|null why a rule is due; null when it is not */
    public function why(int $place): ?array
    {
        $rule = $this->all[$place];
        $since = isset($this->left[$place]) ? new Record($this->event->id, $this->type->key, $this->left[$place]) : ($this->before ?? $this->arrived);
        $moment = new Moment($rule->key, $this->isFirst ? $this->event : null, $this->before === null, $since, $this->record(), $this->scope);
        foreach ($rule->starts as $start) {
            $why = $start->why($moment);
            if ($why !== null) {
                return $why;
            }
        }

        return null;
    }

    private function take(string $rule, RuleLook $look): void
    {
        $this->rules[$rule] = isset($this->rules[$rule]) ? $this->rules[$rule]->and($look->status) : $look->status;
        array_push($this->changes, ...$look->changes);
        if ($look->turns !== []) {
            $this->turns = [...$this->turns, ...$look->turns];
        }
        foreach ($look->problems as $problem) {
            if (! in_array($problem, $this->problems, true)) {
                $this->problems[] = $problem;
            }
        }
        foreach ($look->rows as $row => $count) {
            $this->rows[$rule][$row] = ($this->rows[$rule][$row] ?? 0) + $count;
        }
        foreach ($look->cells as $row => $cells) {
            foreach ($cells as $column => $bits) {
                $this->cells[$rule][$row][$column] = ($this->cells[$rule][$row][$column] ?? 0) | $bits;
            }
        }
        foreach ($look->tableRows as $table => $rows) {
            foreach ($rows as $row => $count) {
                $this->tableRows[$table][$row] = ($this->tableRows[$table][$row] ?? 0) + $count;
            }
        }
    }

    /** @param  array<int, array{Record, list<string>, int}>  $ends */
    private function stopAt(array $ends, int $first, bool $repeats): void
    {
        $rules = [];
        foreach ($ends as $pass => [, $changed]) {
            if ($pass > $first) {
                array_push($rules, ...$changed);
            }
        }
        $this->circle = array_values(array_unique($rules));
        [$record, , $count] = $ends[$first] ?? [$this->record(), [], count($this->changes)];
        $this->scope->becomes($record);
        $this->changes = array_slice($this->changes, 0, $count);
        foreach ($this->circle as $rule) {
            $this->rules[$rule] = RuleStatus::Problem;
            $this->problems[] = ['rule' => $rule, 'field' => null, 'message' => sprintf(
                'The record does not settle: %s in a circle%s. The values after pass %d stand.',
                count($this->circle) === 1 ? $rule.' goes round' : implode(', ', $this->circle).' go round',
                $repeats ? '' : ' (stopped after '.self::max().' passes)',
                $first,
            )];
        }
    }

    /**
     * @param  list<array{field: string, reason: string}>  $refused
     * @param  list<array{rule: string|null, field: string|null, message: string}>  $problems  found outside the passes
     * @param  list<string>  $tripped  guards that were met outside the passes
     */
    public function outcome(array $refused, array $problems, array $tripped): Outcome
    {
        $tripped = $this->tripped === [] ? $tripped : array_values(array_unique([...$tripped, ...array_map(strval(...), array_keys($this->tripped))]));
        $isRefused = $refused !== [];
        $problems = [...$problems, ...($this->following?->problems() ?? []), ...$this->problems];
        $trace = $this->full ? [
            'event' => ['kind' => $this->event->kind->value, 'record' => $this->event->id, 'type' => $this->type->key, 'by' => $this->event->by, 'at' => $this->event->at, ...($this->event->data === [] ? [] : ['data' => $this->event->data]), ...($this->event->due === [] ? [] : ['due' => array_keys($this->event->due)])],
            'passes' => $this->passes,
            'circle' => $this->circle,
            'changes' => $this->changes,
            'actions' => $this->waited,
            'refused' => $refused,
            'problems' => $problems,
            'guards' => $this->standing($tripped),
        ] : [];

        return new Outcome($this->before, $isRefused ? $this->before ?? $this->arrived : $this->record(), $refused, $problems, new Hits($this->all, $this->rules, $this->rows, $this->cells, $this->ways, $this->more, $this->changes, $this->foundAt), $this->tableRows, $isRefused ? [] : $this->changes, $trace, $this->probed, $tripped, actions: $isRefused ? [] : $this->actions, turns: $isRefused ? [] : $this->turns, mirrors: $this->following?->mirrored() ?? array_map(strval(...), array_keys($this->begun->mirrored ?? [])));
    }

    /**
     * The guards in force on the settled record, for a trace and for the page that shows it.
     *
     * @param  list<string>  $tripped
     * @return list<array{guard: string, field: string, effect: string, reason: string|null, tripped: bool}>
     */
    private function standing(array $tripped): array
    {
        return array_map(fn (Guard $g): array => ['guard' => $g->key, 'field' => $g->field, 'effect' => $g->effect->value, 'reason' => $g->reason, 'tripped' => in_array($g->key, $tripped, true)], $this->guards->inForce($this->scope, ...Effect::cases()));
    }
}
