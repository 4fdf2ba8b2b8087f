<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Feel\Values;
use Sorvel\Core\Feel\Walk;
use Sorvel\Core\Feel\Warnings;
use Sorvel\Core\Guard\Guards;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Reads;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Viewer;
use Sorvel\Core\Rule\ChangeColumn;
use Sorvel\Core\Rule\Rule;

/**
 * One rule looking once at the record: only_if, look-ups, rows, changes (3 and 4 of "One event"). A check column is
 * read once a look, before any row has changed something; a change applies at once, so later cells see it.
 */
final class RuleLook
{
    public RuleStatus $status = RuleStatus::Looked;

    /** @var list<array{rule: string|null, field: string|null, message: string}> */
    public array $problems = [];

    /** @var list<array{field: string, before: mixed, after: mixed, rule: string|null}> */
    public array $changes = [];

    /** @var array<int, int> */
    public array $rows = [];

    /** @var array<int, array<int, int>> */
    public array $cells = [];

    /** @var array<string, array<int, int>> */
    public array $tableRows = [];

    /** @var array<string, mixed> */
    public array $trace = [];

    /** @var array<int, mixed> check values by column */
    private array $checks = [];

    private readonly LookScope $scope;

    private bool $changed = false;

    public function __construct(
        private readonly Rule $rule,
        private readonly RecordType $type,
        private readonly EventScope $event,
        private readonly Viewer $viewer,
        private readonly Guards $guards,
        private readonly bool $full,
    ) {
        $this->scope = new LookScope($rule, $event, $viewer);
    }

    public function run(): void
    {
        try {
            if ($this->onlyIf()) {
                $this->rows();
            }
        } catch (SkipRule $skip) {
            if ($skip->isProblem) {
                $this->problem(null, $skip->getMessage());
            }
            $this->trace['skipped'] = $skip->getMessage();
        }
        $this->settleStatus();
        if ($this->full) {
            $this->trace['look_ups'] = $this->scope->trace();
            $this->trace['status'] = $this->status->value;
        }
        $this->noteTables($this->scope->tables());
    }

    private function settleStatus(): void
    {
        $reached = $this->rows !== [];
        $this->status = match (true) {
            $this->problems !== [] => $reached ? RuleStatus::Problem : RuleStatus::ProblemBefore,
            $this->changed => RuleStatus::Acted,
            $reached => RuleStatus::NoEffect,
            default => RuleStatus::Looked,
        };
    }

    private function onlyIf(): bool
    {
        if ($this->rule->onlyIf === null) {
            return true;
        }
        [$value, $seen] = $this->evaluate($this->rule->onlyIf);
        if ($this->full) {
            $this->trace['only_if'] = ['formula' => $this->rule->onlyIf->source, 'result' => Values::json($value), ...$seen];
        }

        return $value === true;
    }

    private function rows(): void
    {
        $fitting = [];
        foreach ($this->rule->rows as $number => $row) {
            $failed = null;
            foreach ($row->if as $column => $tests) {
                if ($tests->alwaysHolds()) {
                    continue;
                }
                $value = $this->check($column);
                $this->viewer->reads->take();
                $warnings = new Warnings;
                $holds = $tests->hold($value, $this->scope, $warnings) === true;
                $this->noteTables($this->viewer->reads->take()['tables']);
                $this->cells[$number][$column] = ($this->cells[$number][$column] ?? 0) | ($holds ? 1 : 2);
                if (! $holds) {
                    $failed = ['column' => $column, 'test' => $tests->source, 'warnings' => $warnings->all()];
                    break;
                }
            }
            if ($this->full) {
                $this->trace['rows'][] = ['row' => $number, 'fits' => $failed === null, 'failed' => $failed];
            }
            if ($failed === null) {
                $fitting[] = $number;
                if (! $this->rule->everyRow) {
                    break;
                }
            }
        }
        foreach ($fitting as $number) {
            $this->findNeeded($number);
            $this->rows[$number] = 1;
            foreach ($this->rule->changes as $column => $change) {
                $cell = $this->rule->rows[$number]->then[$column];
                if ($cell !== null) {
                    $this->change($number, $column, $change, $cell);
                }
            }
        }
    }

    /**
     * A look-up that may end the rule is found before the row's first change, so that nothing is half done.
     *
     * @throws SkipRule
     */
    private function findNeeded(int $row): void
    {
        foreach ($this->rule->rows[$row]->then as $cell) {
            foreach ($cell === null ? [] : Walk::names($cell->tree) as $name) {
                $none = ($this->rule->lookUps[$name] ?? null)?->none;
                if ($none === 'skip_rule' || $none === 'problem') {
                    $this->scope->get($name);
                }
            }
        }
    }

    private function check(int $column): mixed
    {
        if (! array_key_exists($column, $this->checks)) {
            [$value, $seen] = $this->evaluate($this->rule->checks[$column]);
            $this->checks[$column] = $value;
            if ($this->full) {
                $this->trace['checks'][] = ['column' => $column, 'of' => $this->rule->checks[$column]->source, 'value' => Values::json($value), ...$seen];
            }
        }

        return $this->checks[$column];
    }

    private function change(int $row, int $column, ChangeColumn $change, Formula $cell): void
    {
        $field = $this->type->fields[$change->field()];
        [$value, $seen] = $this->evaluate($cell);
        $record = $this->event->record();
        $before = $record->value($field->key);
        $after = $before;
        $why = '';
        $problem = null;
        try {
            $proposal = $change->propose($value, $before, $field, $this->viewer);
            $why = $proposal->why;
            if (! $proposal->keeps) {
                $this->allow($field->key, $before, $proposal->value);
                $after = Record::isEmpty($proposal->value) ? null : $proposal->value;
                $guard = $this->guards->against($field, $after, $this->event);
                if ($guard !== null) {
                    $after = $before;
                    throw new Misfit($guard->reason ?? 'this is not one of the choices that remain.');
                }
                if (Record::same($before, $after)) {
                    $why = 'already so';
                    $after = $before;
                }
            }
        } catch (Misfit $misfit) {
            $problem = sprintf('%s was not set: %s', $field->label, $misfit->getMessage());
            $this->problem($field->key, $problem);
        }
        $beforeJson = Record::plain($before);
        $afterJson = Record::plain($after);
        if (! Record::same($before, $after)) {
            $this->event->becomes($record->with($field->key, $after));
            $this->changes[] = ['field' => $field->key, 'before' => $beforeJson, 'after' => $afterJson, 'rule' => $this->rule->key];
            $this->changed = true;
        }
        if ($this->full) {
            $this->trace['changes'][] = ['row' => $row, 'column' => $column, 'kind' => $change->kind(), 'field' => $field->key, 'formula' => $cell->source, 'cell' => Values::json($value), 'before' => $beforeJson, 'after' => $afterJson, 'made' => ! Record::same($before, $after), 'why' => $why, 'problem' => $problem, ...$seen];
        }
    }

    /** @throws Misfit */
    private function allow(string $field, mixed $before, mixed $after): void
    {
        if ($field !== 'state' || $this->type->states === []) {
            return;
        }
        if (! is_string($after)) {
            throw new Misfit('a ticket always has a state.');
        }
        if (is_string($before) && ! $this->type->allowsMove($before, $after)) {
            throw new Misfit(sprintf('there is no move from "%s" to "%s".', $this->type->states[$before]->label, $this->type->states[$after]->label));
        }
    }

    /** @return array{mixed, array<string, mixed>} the value, and what was read for it */
    private function evaluate(Formula $formula): array
    {
        $this->viewer->reads->take();
        $warnings = new Warnings;
        $value = $formula->value($this->scope, $warnings);
        $seen = $this->viewer->reads->take();
        $this->noteTables($seen['tables']);

        return [$value, $this->full ? [...Reads::plain($seen), 'warnings' => $warnings->all()] : []];
    }

    /** @param  list<array{table: string, inputs: list<mixed>, rows: list<int>, value: mixed}>  $calls */
    private function noteTables(array $calls): void
    {
        foreach ($calls as $call) {
            foreach ($call['rows'] as $row) {
                $this->tableRows[$call['table']][$row] = ($this->tableRows[$call['table']][$row] ?? 0) + 1;
            }
        }
    }

    private function problem(?string $field, string $message): void
    {
        $this->problems[] = ['rule' => $this->rule->key, 'field' => $field, 'message' => $message];
    }
}
