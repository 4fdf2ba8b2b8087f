<?php

declare(strict_types=1);

namespace Sorvel\Core\Proposal;

use Sorvel\Core\Engine\Schedule;
use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Feel\MapScope;
use Sorvel\Core\Feel\Node;
use Sorvel\Core\Feel\Node\Call;
use Sorvel\Core\Feel\Node\Comparison;
use Sorvel\Core\Feel\Node\In;
use Sorvel\Core\Feel\Node\Literal;
use Sorvel\Core\Feel\Node\Logic;
use Sorvel\Core\Feel\Node\Name;
use Sorvel\Core\Feel\Node\Path;
use Sorvel\Core\Feel\Values as FeelValues;
use Sorvel\Core\Feel\Walk;
use Sorvel\Core\Feel\Warnings;
use Sorvel\Core\Finding\Book;
use Sorvel\Core\Guard\Effect;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\FieldType;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Rule\AnsweredStart;
use Sorvel\Core\Rule\AtStart;
use Sorvel\Core\Rule\ByHandStart;
use Sorvel\Core\Rule\ChangedStart;
use Sorvel\Core\Rule\CreatedStart;
use Sorvel\Core\Rule\DeletedStart;
use Sorvel\Core\Rule\LookUp;
use Sorvel\Core\Rule\ReceivedStart;
use Sorvel\Core\Rule\RelatedStart;
use Sorvel\Core\Rule\Rule;
use Sorvel\Core\Rule\Start;

/**
 * The stories that can be told about one rule: how it starts, what the record holds, what it refers to, what look-ups
 * find. A story is a choice of one value for each of these variables; only those that the rule reads vary.
 */
final class Stories
{
    private const CLOCK = '2027-03-04T09:00:00';

    /** What the desk keeps by itself: a story can begin with it, but nobody can set it. */
    private const KEPT = ['created_by', 'created_at'];

    private readonly RecordType $type;

    private readonly Values $values;

    /** @var array<string, non-empty-list<mixed>> the values that each variable may take */
    public readonly array $variables;

    /** @var array<string, array<string, true>> fields that the rule reads, by type */
    private array $read = [];

    /** @param  array{string, string}|null  $part  the part of the rulebook that the stories are about, when it is not a rule: kind and key */
    public function __construct(private readonly Book $book, private readonly Rule $rule, ?string $on = null, private readonly ?array $part = null)
    {
        $this->type = $book->rulebook->types[$on ?? $rule->on[0]];
        $this->values = new Values($book->rulebook, $this->trees(), self::CLOCK);
        $this->read = $this->reads();
        $variables = ['start' => array_keys($rule->starts)];
        foreach (array_keys($this->read[$this->type->key] ?? []) as $key) {
            $field = $this->type->fields[$key] ?? null;
            if ($field !== null && ($this->isGiven($field) || in_array($key, self::KEPT, true))) {
                $variables['f.'.$key] = $this->choices($field);
            }
        }
        foreach ($this->trees() as $tree) {
            if (array_intersect(Walk::names($tree), ['now', 'today', 'event']) !== []) {
                // a day of the week, its end, and a night
                $variables['clock'] = [self::CLOCK, '2027-03-06T11:00:00', '2027-03-05T17:30:00', '2027-03-08T02:00:00'];
            }
        }
        foreach ($rule->watches as $key) {
            $field = $this->type->fields[$key] ?? null;
            if ($field !== null && $this->isGiven($field)) {
                $variables['f.'.$key] ??= $this->choices($field);
                $variables['was.'.$key] = [...array_reverse($variables['f.'.$key]), null];
            }
        }
        $variables['changes'] = array_values(array_filter($rule->watches, fn (string $f): bool => isset($variables['was.'.$f]))) ?: [''];
        foreach ($this->read as $type => $fields) {
            foreach ($type === $this->type->key ? [] : array_keys($fields) as $key) {
                $field = $book->rulebook->types[$type]->fields[$key] ?? null;
                if ($field !== null && ($this->isGiven($field) || $field->tally !== null)) {
                    $variables[$type.'.'.$key] = $this->choices($field);
                }
            }
        }
        foreach ($rule->lookUps as $lookUp) {
            if ($lookUp->type !== null) {
                $variables['n.'.$lookUp->name] = [1, 0, 2, 3];
            }
        }
        foreach ($rule->byHand()->questions ?? [] as $question) {
            $variables['in.'.$question->field->key] = $this->values->of($question->field);
        }
        foreach ($rule->starts as $start) {
            if ($start instanceof AnsweredStart) {
                $variables['status'] = [...$this->values->whole(100, 599), 200, 502, 404, null];
            } elseif ($start instanceof ReceivedStart) {
                $people = array_values(array_filter(array_map(fn ($p): ?string => $p->email, $book->rulebook->people)));
                $variables['from'] = ['stranger@mail.example', ...array_slice($people, 0, 2)];
                $variables['opens'] = [true, false];
            }
        }
        $active = array_keys(array_filter($book->rulebook->people, fn ($p): bool => $p->active && ! $p->away));
        $variables['by'] = [...array_slice(array_map(strval(...), $active), 0, 2), null];
        /** @var array<string, non-empty-list<mixed>> $filled */
        $filled = array_filter($variables, fn (array $v): bool => $v !== []);
        $this->variables = $filled;
    }

    /** @return array<string, array{string, mixed}> by the word for it, one variable that is turned to one value: empty, at a bound, so many found */
    public function turns(): array
    {
        $turns = [];
        foreach ($this->variables as $variable => $values) {
            [$of] = explode('.', $variable, 2);
            if (($of === 'f' || isset($this->book->rulebook->types[$of])) && in_array(null, $values, true)) {
                $turns[Tried::value($this->rule->key, $variable, null)] = [$variable, null];
            }
        }
        foreach (Edges::of($this->rule, $this->type, $this->book->rulebook) as $field => $values) {
            foreach (isset($this->variables['f.'.$field]) ? $values : [] as $value) {
                $turns[Tried::value($this->rule->key, 'f.'.$field, $value)] = ['f.'.$field, $value];
            }
        }
        foreach ($this->rule->lookUps as $lookUp) {
            foreach (isset($this->variables['n.'.$lookUp->name]) ? [0, 1, 2] : [] as $count) {
                $turns[Tried::found($this->rule->key, $lookUp->name, $count)] = ['n.'.$lookUp->name, $count];
            }
        }

        return $turns;
    }

    /** @return list<Node> every formula of the rule, and those of the tables that it calls */
    private function trees(): array
    {
        $trees = array_map(fn (Formula $f): Node => $f->tree, $this->rule->formulas());
        foreach ($this->rule->rows as $row) {
            foreach ($row->if as $tests) {
                array_push($trees, ...$tests->tests);
            }
        }
        foreach ($this->rule->starts as $start) {
            foreach ($start instanceof ChangedStart ? array_filter([$start->from, $start->to]) : [] as $tests) {
                array_push($trees, ...$tests->tests);
            }
        }
        foreach ($this->tables($trees) as $key) {
            foreach ($this->book->rulebook->tables[$key]->rows as $row) {
                foreach ($row->if as $tests) {
                    array_push($trees, ...$tests->tests);
                }
            }
        }

        return $trees;
    }

    /**
     * @param  list<Node>  $trees
     * @return list<string> keys of the tables that are called
     */
    private function tables(array $trees): array
    {
        $found = [];
        foreach ($trees as $tree) {
            foreach (Walk::names($tree) as $name) {
                if (isset($this->book->rulebook->tables[$name])) {
                    $found[$name] = true;
                }
            }
        }

        return array_keys($found);
    }

    /** @return list<string> keys of the tables that the rule calls */
    public function calledTables(): array
    {
        return $this->tables($this->trees());
    }

    /** @return array<string, array<string, true>> by type; of computed and mirrored fields what they are computed from */
    private function reads(): array
    {
        $from = [];
        $reads = [];
        foreach ($this->book->mentions as $mention) {
            $at = $this->book->locate($mention->path);
            if ($at === null) {
                continue;
            }
            $field = [$mention->field->of, $mention->field->key];
            if ([$at[0], $at[1]] === ($this->part ?? ['rules', $this->rule->key]) && ! $mention->writes) {
                $reads[$field[0]][$field[1]] = true;
            } elseif ($at[0] === 'types' && preg_match('~^/fields/(\d+)/formula~', $at[2], $match) === 1) {
                $from[$at[1].'.'.$this->book->part('types', $at[1])['fields'][(int) $match[1]]['key']][] = $field;
            } elseif ($at[0] === 'mirrors' && str_starts_with($at[2], '/from')) {
                foreach ($this->book->rulebook->mirrors[$at[1]]->on as $type) {
                    $from[$type.'.'.$this->book->rulebook->mirrors[$at[1]]->field][] = $field;
                }
            }
        }
        // what a change keeps when it is there already is looked at too
        foreach ($this->rule->immediate as $change) {
            if (isset($this->type->fields[$change->field])) {
                $reads[$this->type->key][$change->field] = true;
            }
        }
        foreach ($this->trees() as $tree) {
            foreach (Walk::names($tree) as $name) {
                isset($this->type->fields[$name]) && ! isset($this->rule->lookUps[$name]) && $reads[$this->type->key][$name] = true;
            }
        }
        $open = [];
        foreach ($this->written(array_keys($reads[$this->type->key] ?? [])) as $key) {
            $reads[$this->type->key][$key] = true;
        }
        foreach ($reads as $type => $fields) {
            foreach (array_keys($fields) as $key) {
                $open[] = $type.'.'.$key;
            }
        }
        while (($field = array_shift($open)) !== null) {
            foreach ($from[$field] ?? [] as [$type, $key]) {
                if (! isset($reads[$type][$key])) {
                    $reads[$type][$key] = true;
                    $open[] = $type.'.'.$key;
                }
            }
        }

        return $reads;
    }

    /**
     * What other rules read to set a field that nobody else may set: only through them can it get a value.
     *
     * @param  list<string>  $fields  of the record
     * @return list<string>
     */
    private function written(array $fields): array
    {
        $guarded = [];
        foreach ($this->book->rulebook->guardsOn($this->type->key) as $guard) {
            $guarded[$guard->field] = $guard->effect === Effect::ReadOnly;
        }
        $writers = [];
        foreach ($this->book->rules() as $other) {
            foreach ($other === $this->rule ? [] : $other->immediate as $change) {
                if (in_array($this->type->key, $other->on, true) && in_array($change->field, $fields, true) && ($guarded[$change->field] ?? false)) {
                    $writers[$other->key] = true;
                }
            }
        }
        $found = [];
        foreach ($this->book->mentions as $mention) {
            $at = $this->book->locate($mention->path);
            if ($at !== null && $at[0] === 'rules' && isset($writers[$at[1]]) && ! $mention->writes && $mention->field->of === $this->type->key) {
                $found[$mention->field->key] = true;
            }
        }

        return array_keys($found);
    }

    private function isGiven(Field $field): bool
    {
        return ! $field->isComputed() && $field->active && (! $field->fixed || $field->key === 'state') && ! in_array($field->key, ['number', 'created_by', 'created_at', 'changed_at', 'requester'], true);
    }

    /** @return non-empty-list<mixed> */
    private function choices(Field $field): array
    {
        if ($field->to !== null) {
            $one = self::id($field->to, 1);

            return $field->type === FieldType::References ? [[$one], null] : [$one, null];
        }

        return $this->values->of($field) ?: [null];
    }

    private static function id(string $type, int $number): string
    {
        $letters = implode('', array_map(fn (string $w): string => strtoupper(substr($w, 0, 1)), explode('_', $type)));

        return $letters.strtoupper(substr($type, -1)).$number;
    }

    /**
     * The values of a variable that meet what a row asks, as far as that can be told from one variable.
     *
     * @param  int|null  $besides  a check column that may come out either way
     * @return array<string, list<mixed>> by variable
     */
    public function aimedAt(int $row, ?int $besides = null): array
    {
        $aimed = [];
        $narrow = function (Node $tree, \Closure $holds) use (&$aimed): void {
            $fields = array_values(array_filter(Walk::names($tree), fn (string $n): bool => $n !== '?' && ! isset($this->book->rulebook->tables[$n])));
            if (count($fields) !== 1 || ! isset($this->variables['f.'.$fields[0]])) {
                return;
            }
            $variable = 'f.'.$fields[0];
            $left = array_values(array_filter($aimed[$variable] ?? $this->variables[$variable], fn (mixed $v): bool => $holds(new MapScope([$fields[0] => $this->seen($v, $fields[0])]))));
            if ($left !== []) {
                $aimed[$variable] = $left;
            }
        };
        $conjuncts = $this->rule->onlyIf === null ? [] : self::conjuncts($this->rule->onlyIf->tree);
        $source = $this->rule->onlyIf->source ?? '';
        foreach ($conjuncts as $conjunct) {
            $part = $this->parsed(substr($source, $conjunct->from, $conjunct->to - $conjunct->from));
            $part === null || $narrow($part->tree, fn (MapScope $scope): bool => $part->value($scope, new Warnings) === true);
        }
        foreach ($this->rule->checks as $column => $check) {
            $tests = $this->rule->rows[$row]->if[$column];
            $tests->alwaysHolds() || $column === $besides || $narrow($check->tree, fn (MapScope $scope): bool => $tests->hold($check->value($scope, new Warnings), $scope, new Warnings) === true);
        }

        return $aimed;
    }

    private function parsed(string $source): ?Formula
    {
        try {
            return Formula::parse($source);
        } catch (\Sorvel\Core\Feel\FeelError) {
            return null;
        }
    }

    private function seen(mixed $value, string $key): mixed
    {
        $field = $this->type->fields[$key];

        return match ($field->behavesAs()) {
            FieldType::Date, FieldType::DateTime, FieldType::Duration => is_string($value) ? $this->parsed('@"'.$value.'"')?->value(new MapScope, new Warnings) : null,
            default => FeelValues::fromJson($value),
        };
    }

    /** @return list<Node> */
    private static function conjuncts(Node $node): array
    {
        return $node instanceof Logic && $node->operator === 'and' ? [...self::conjuncts($node->left), ...self::conjuncts($node->right)] : [$node];
    }

    /**
     * The story as a sample without expectations; null when the choice makes no sense.
     *
     * @param  array<string, mixed>  $chosen  by variable; what is left out stays empty
     * @return array<string, mixed>|null
     */
    public function tell(array $chosen, string $key, string $title): ?array
    {
        $start = $this->rule->starts[is_int($chosen['start'] ?? null) ? $chosen['start'] : 0] ?? null;
        $main = self::id($this->type->key, 1);
        $values = $this->record($this->type, 'f.', $chosen);
        $isOpening = $start instanceof CreatedStart || ($start instanceof ReceivedStart && ($chosen['opens'] ?? true) === true);
        if ($isOpening) {
            $values = array_diff_key($values, array_flip(self::KEPT));
        }
        $clock = is_string($chosen['clock'] ?? null) ? $chosen['clock'] : self::CLOCK;
        $given = $this->given($chosen, $values, $main);
        if (! $isOpening) {
            $own = $values;
            if ($start instanceof ChangedStart) {
                $field = $this->changing($start, $chosen);
                if ($field === null) {
                    return null;
                }
                $own[$field] = $chosen['was.'.$field] ?? null;
                if ($own[$field] === null && ($field === 'state' || ($this->type->fields[$field] ?? null)?->required === true)) {
                    return null;
                }
            }
            $given[$this->type->key] = [array_filter(['id' => $main, ...$own], fn (mixed $v): bool => $v !== null), ...($given[$this->type->key] ?? [])];
        }
        $steps = $start === null ? null : $this->steps($start, $chosen, $values, $main, $isOpening, $clock);

        return $steps === null ? null : ['key' => $key, 'title' => $title, 'proves' => 'act', 'rules' => [$this->rule->key], 'clock' => $clock, ...($given === [] ? [] : ['given' => $given]), 'steps' => $steps];
    }

    /** @param  array<string, mixed>  $chosen */
    private function changing(ChangedStart $start, array $chosen): ?string
    {
        $wanted = is_string($chosen['changes'] ?? null) ? $chosen['changes'] : '';
        $may = array_values(array_filter($start->fields, fn (string $f): bool => isset($this->variables['was.'.$f])));

        return in_array($wanted, $may, true) ? $wanted : $may[0] ?? null;
    }

    /**
     * @param  array<string, mixed>  $chosen
     * @param  array<string, mixed>  $values
     * @return list<array<string, mixed>>|null
     */
    private function steps(Start $start, array $chosen, array $values, string $main, bool $isOpening, string $clock): ?array
    {
        $by = is_string($chosen['by'] ?? null) ? ['by' => $chosen['by']] : [];
        $with = array_filter($values, fn (mixed $v): bool => $v !== null);
        switch (true) {
            case $start instanceof CreatedStart:
                return [['create' => $this->type->key, 'as' => $main, ...$by, 'with' => $with]];
            case $start instanceof ChangedStart:
                $field = (string) $this->changing($start, $chosen);

                return ($values[$field] ?? null) === ($chosen['was.'.$field] ?? null) ? null : [['change' => $main, ...$by, 'with' => [$field => $values[$field] ?? null]]];
            case $start instanceof DeletedStart:
                return [['delete' => $main, ...$by]];
            case $start instanceof ByHandStart:
                $inputs = [];
                foreach ($start->questions as $question) {
                    $inputs[$question->field->key] = $chosen['in.'.$question->field->key] ?? null;
                }

                return [['by_hand' => $this->rule->key, 'on' => $main, ...$by, ...($inputs === [] ? [] : ['with' => array_filter($inputs, fn (mixed $v): bool => $v !== null)])]];
            case $start instanceof AtStart:
                $next = (new Schedule($this->book->rulebook))->next($start->cron, new \DateTimeImmutable($clock, new \DateTimeZone($this->book->rulebook->timezone)));

                return $next === null ? null : [['clock' => $next->format('Y-m-d\TH:i:s')]];
            case $start instanceof AnsweredStart:
                return [['answer' => array_filter(['call' => $start->call, 'status' => $chosen['status'] ?? null], fn (mixed $v): bool => $v !== null), 'on' => $main]];
            case $start instanceof ReceivedStart:
                $message = ['from' => $chosen['from'] ?? 'stranger@mail.example', 'subject' => 'Something is wrong', 'text' => 'Please look at it.'];

                return $isOpening ? [['receive' => [...$message, 'opens' => $this->type->key], 'as' => $main, ...($with === [] ? [] : ['with' => array_diff_key($with, ['title' => 1])])]] : [['receive' => [...$message, 'about' => $main]]];
            case $start instanceof RelatedStart:
                $to = $this->type->fields[$start->via]->to ?? '';
                $of = $this->book->rulebook->types[$to] ?? null;
                $field = $start->fields[0] ?? null;
                if ($of === null || $field === null || ($values[$start->via] ?? null) === null) {
                    return null;
                }
                $now = $chosen[$to.'.'.$field] ?? null;
                $others = array_values(array_filter($this->choices($of->fields[$field]), fn (mixed $v): bool => $v !== $now));

                return $others === [] ? null : [['change' => self::id($to, 1), ...$by, 'with' => [$field => $others[0]]]];
            default:
                return null;
        }
    }

    /**
     * @param  array<string, mixed>  $chosen
     * @return array<string, mixed> values of a record by field, null where it is empty
     */
    private function record(RecordType $type, string $prefix, array $chosen): array
    {
        $values = [];
        foreach ($type->fields as $field) {
            if (array_key_exists($prefix.$field->key, $chosen) && ! $field->isComputed()) {
                $values[$field->key] = $chosen[$prefix.$field->key];
            } elseif (($field->required || $field->key === $type->nameField || $field->key === 'title') && $this->isGiven($field) && $field->key !== 'state') {
                $values[$field->key] = $field->to === null ? ($field->behavesAs() === FieldType::Text ? $type->title : $this->values->of($field)[0] ?? null) : self::id($field->to, 1);
            }
        }

        return $values;
    }

    /**
     * Records that are referred to, some references on, and those that look-ups are to find.
     *
     * @param  array<string, mixed>  $chosen
     * @param  array<string, mixed>  $values  of the record itself
     * @return array<string, list<array<string, mixed>>> by type
     */
    private function given(array $chosen, array $values, string $main): array
    {
        $given = [];
        $open = [[$this->type, $values]];
        while (($next = array_shift($open)) !== null) {
            [$type, $held] = $next;
            foreach ($type->fields as $field) {
                foreach ($field->to === null ? [] : (array) ($held[$field->key] ?? null) as $id) {
                    if (! is_string($id) || isset($given[$field->to][$id]) || $id === $main) {
                        continue;
                    }
                    $to = $this->book->rulebook->types[$field->to];
                    $record = array_filter($this->record($to, $to->key.'.', $chosen), fn (mixed $v): bool => $v !== null);
                    $given[$field->to][$id] = ['id' => $id, ...$record];
                    $open[] = [$to, $record];
                }
            }
        }
        foreach ($this->rule->lookUps as $lookUp) {
            $of = $lookUp->type;
            $count = $chosen['n.'.$lookUp->name] ?? 0;
            for ($i = 1; $of !== null && $i <= $count; $i++) {
                $id = self::id($of->key, 10 + $i);
                $record = array_filter([...$this->record($of, $of->key.'.', $chosen), ...$this->meeting($lookUp, $values, $main)], fn (mixed $v): bool => $v !== null);
                $given[$of->key][$id] = ['id' => $id, ...$record];
                foreach ($of->fields as $field) {
                    $to = $field->to === null ? null : $this->book->rulebook->types[$field->to];
                    foreach ($to === null ? [] : (array) ($record[$field->key] ?? null) as $other) {
                        if ($to !== null && is_string($other) && $other !== $main && ! isset($given[$to->key][$other])) {
                            $given[$to->key][$other] = ['id' => $other, ...array_filter($this->record($to, $to->key.'.', $chosen), fn (mixed $v): bool => $v !== null)];
                        }
                    }
                }
            }
        }

        return array_map(array_values(...), $given);
    }

    /**
     * Values with which a candidate meets the criteria of a look-up, as far as they compare a field with something known.
     *
     * @param  array<string, mixed>  $values  of the record itself
     * @return array<string, mixed>
     */
    private function meeting(LookUp $lookUp, array $values, string $main): array
    {
        $meets = [];
        $fields = $lookUp->type->fields ?? [];
        foreach ($lookUp->where === null ? [] : self::conjuncts($lookUp->where->tree) as $node) {
            if ($node instanceof Name && isset($fields[$node->name])) {
                $meets[$node->name] = true;
            } elseif ($node instanceof Call && $node->function instanceof Name && $node->function->name === 'not') {
                $inner = array_values($node->arguments)[0] ?? null;
                $inner instanceof Name && isset($fields[$inner->name]) && $meets[$inner->name] = false;
            } elseif ($node instanceof In && $node->value instanceof Name && isset($fields[$node->value->name])) {
                $first = $node->tests[0] ?? null;
                $first instanceof Literal && $meets[$node->value->name] = $first->value;
            } elseif ($node instanceof Comparison && $node->operator === '=') {
                foreach ([[$node->left, $node->right], [$node->right, $node->left]] as [$of, $value]) {
                    if ($of instanceof Name && isset($fields[$of->name])) {
                        $known = match (true) {
                            $value instanceof Literal => [$value->value],
                            $value instanceof Name && $value->name === 'record' => [$main],
                            $value instanceof Path && $value->of instanceof Name && $value->of->name === 'record' => $value->name === 'id' ? [$main] : [$values[$value->name] ?? null],
                            default => [],
                        };
                        if ($known !== [] && (is_scalar($known[0]) || $known[0] === null)) {
                            $meets[$of->name] = $known[0];
                        }
                        break;
                    }
                }
            }
        }

        return $meets;
    }
}
