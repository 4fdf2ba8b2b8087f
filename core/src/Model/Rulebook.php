<?php

declare(strict_types=1);

namespace Sorvel\Core\Model;

use Sorvel\Core\Engine\Watchers;
use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Feel\UnaryTests;
use Sorvel\Core\Guard\Guard;
use Sorvel\Core\Mirror\Course;
use Sorvel\Core\Mirror\Mirror;
use Sorvel\Core\Rule\RelatedStart;
use Sorvel\Core\Rule\Rule;
use Sorvel\Core\Table\Table;

/** All that a desk is made of, read and checked. */
final class Rulebook
{
    /** @var array<string, list<Rule>> enabled rules by type, in running order */
    private array $rulesByType = [];

    /** @var array<string, array<string, array<int, true>>> by type and kind of event */
    private array $starting = [];

    /** @var array<string, array<string, array<int, true>>> by type and field */
    private array $watching = [];

    /** @var array<string, list<array{string, RelatedStart}>> by type that is referred to */
    private array $related = [];

    /** @var list<Dependency> what records take over from others */
    public readonly array $dependencies;

    /** @var array<string, list<Mirror>> by type */
    private array $mirrorsByType = [];

    /** @var array<string, Course> by type, made when first needed */
    private array $courses = [];

    /** @var array<string, string> by part, what compiled code for it is known by */
    private array $knownBy = [];

    /** @var array<string, Watchers> by type, made when first needed */
    private array $watchers = [];

    /** @var array<string, list<Guard>> by type */
    private array $guardsByType = [];

    /** @var array<string, array<string, list<Guard>>> by type and effect */
    private array $guardsByEffect = [];

    /** @var array<string, string> person key to key of the first team with them in it */
    private array $teamOf = [];

    /**
     * @param  array<string, Team>  $teams
     * @param  array<string, Person>  $people
     * @param  array<string, RecordType>  $types
     * @param  array<string, Table>  $tables
     * @param  array<string, Rule>  $rules  in running order
     * @param  array<string, Guard>  $guards
     * @param  array<string, Mirror>  $mirrors
     */
    public function __construct(
        public readonly string $desk,
        public readonly string $title,
        public readonly string $timezone,
        public readonly array $teams,
        public readonly array $people,
        public readonly array $types,
        public readonly array $tables,
        public readonly array $rules,
        public readonly array $guards = [],
        public readonly array $mirrors = [],
    ) {
        $dependencies = [];
        foreach ($types as $type) {
            foreach ($type->derived as $field) {
                array_push($dependencies, ...($field->formula === null ? [] : Dependencies::of($field->formula->tree, $type, $types)));
            }
        }
        foreach ($mirrors as $mirror) {
            foreach ($mirror->on as $key) {
                $this->mirrorsByType[$key][] = $mirror;
                array_push($dependencies, ...Dependencies::of($mirror->from->tree, $types[$key], $types));
            }
        }
        $this->dependencies = $dependencies;
        foreach ($guards as $guard) {
            foreach ($guard->on as $type) {
                $this->guardsByType[$type][] = $guard;
                $this->guardsByEffect[$type][$guard->effect->value][] = $guard;
            }
        }
        foreach ($rules as $rule) {
            foreach ($rule->enabled ? $rule->on : [] as $type) {
                $place = count($this->rulesByType[$type] ?? []);
                $this->rulesByType[$type][] = $rule;
                foreach ($rule->kinds as $kind) {
                    $this->starting[$type][$kind][$place] = true;
                }
                foreach ($rule->watches as $field) {
                    $this->watching[$type][$field][$place] = true;
                }
                foreach ($rule->starts as $start) {
                    $to = $start instanceof RelatedStart ? $types[$type]->fields[$start->via]->to ?? null : null;
                    if ($start instanceof RelatedStart && $to !== null) {
                        $this->related[$to][] = [$type, $start];
                    }
                }
            }
        }
        foreach ($teams as $team) {
            foreach ($team->members as $member) {
                $this->teamOf[$member] ??= $team->key;
            }
        }
    }

    public function withType(RecordType $type): self
    {
        return new self($this->desk, $this->title, $this->timezone, $this->teams, $this->people, [...$this->types, $type->key => $type], $this->tables, $this->rules, $this->guards, $this->mirrors);
    }

    /** The same with another rule, table, guard or mirror in the place of its key; one that is null is gone. */
    public function with(?Rule $rule = null, ?Table $table = null, ?string $withoutGuard = null, ?string $withoutMirror = null): self
    {
        return new self(
            $this->desk, $this->title, $this->timezone, $this->teams, $this->people, $this->types,
            $table === null ? $this->tables : [...$this->tables, $table->key => $table], $rule === null ? $this->rules : [...$this->rules, $rule->key => $rule],
            $withoutGuard === null ? $this->guards : array_diff_key($this->guards, [$withoutGuard => 1]), $withoutMirror === null ? $this->mirrors : array_diff_key($this->mirrors, [$withoutMirror => 1]),
        );
    }

    /** @return list<Rule> */
    public function rulesOn(string $type): array
    {
        return $this->rulesByType[$type] ?? [];
    }

    /**
     * What compiled code for a part of it is known by: worked out once, and kept with it.
     *
     * @param  \Closure(): string  $make
     */
    public function knownBy(string $part, \Closure $make): string
    {
        return $this->knownBy[$part] ??= $make();
    }

    /** Who looks when something happens to a record of a type. */
    public function watchers(string $type): Watchers
    {
        return $this->watchers[$type] ??= new Watchers($this, $this->types[$type]);
    }

    /** @return array<int, true> places of the rules on a type that start on a kind of event */
    public function startingOn(string $type, string $kind): array
    {
        return $this->starting[$type][$kind] ?? [];
    }

    /** @return array<string, array<int, true>> by field, places of the rules on a type that a change of it may make due */
    public function watching(string $type): array
    {
        return $this->watching[$type] ?? [];
    }

    /** @return array<string, list<array{string, RelatedStart}>> by type that is referred to: the type that a rule is on, and its start */
    public function related(): array
    {
        return $this->related;
    }

    /** @return list<Mirror> */
    public function mirrorsOn(string $type): array
    {
        return $this->mirrorsByType[$type] ?? [];
    }

    /** What follows within a record of a type. */
    public function course(string $type): Course
    {
        return $this->courses[$type] ??= new Course($this->types[$type], $this->mirrorsByType[$type] ?? [], $this->guardsByType[$type] ?? []);
    }

    /** @return list<Guard> */
    public function guardsOn(string $type): array
    {
        return $this->guardsByType[$type] ?? [];
    }

    /** @return array<string, list<Guard>> by effect */
    public function guardsByEffect(string $type): array
    {
        return $this->guardsByEffect[$type] ?? [];
    }

    /** @return array{list<Formula>, list<UnaryTests>} every formula and test in it */
    public function formulas(): array
    {
        $formulas = [];
        $tests = [];
        $rows = [];
        foreach ($this->types as $type) {
            foreach ($type->fields as $field) {
                $formulas[] = $field->default;
                $formulas[] = $field->formula;
                $formulas[] = $field->tally?->where;
            }
        }
        foreach ($this->tables as $table) {
            array_push($rows, ...$table->rows);
            array_push($formulas, ...$table->default);
        }
        foreach ($this->rules as $rule) {
            array_push($formulas, ...$rule->formulas());
            foreach ($rule->rows as $row) {
                array_push($tests, ...$row->if);
            }
        }
        foreach ($this->guards as $guard) {
            array_push($formulas, $guard->when, $guard->only);
        }
        foreach ($this->mirrors as $mirror) {
            $formulas[] = $mirror->from;
        }
        foreach ($rows as $row) {
            array_push($tests, ...$row->if);
            array_push($formulas, ...$row->then);
        }

        return [array_values(array_filter($formulas)), $tests];
    }

    public function teamOf(string $person): ?Team
    {
        return isset($this->teamOf[$person]) ? $this->teams[$this->teamOf[$person]] : null;
    }
}
