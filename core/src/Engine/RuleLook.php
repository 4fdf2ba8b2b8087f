<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

use Sorvel\Core\Feel\EvaluationStopped;
use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Feel\Values;
use Sorvel\Core\Feel\Warnings;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Reads;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordView;
use Sorvel\Core\Model\Viewer;
use Sorvel\Core\Rule\ActionChange;
use Sorvel\Core\Rule\FieldChange;
use Sorvel\Core\Rule\RefuseChange;
use Sorvel\Core\Rule\Repeat;
use Sorvel\Core\Rule\Rule;

/**
 * One rule looking once at the record: only_if, look-ups, rows, changes (3 and 4 of "One event"). A check column is
 * read once a look, before any row has changed something; a change applies at once, so later cells see it.
 */
final class RuleLook
{
    public const ACTED = 'It has acted on this record before, and acts once.';

    public const HELD = 'It held before this event already, and acts when it becomes true.';

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

    private readonly LookScope|EventScope $scope;

    private bool $changed = false;

    /** Of compiled formulas, which tell nobody. */
    private ?Warnings $warnings = null;

    /** @var list<int> rows that fitted */
    private array $fitting = [];

    /** Whether the rule ended because it has had its turn: what it wanted before still stands. */
    public bool $isOver = false;

    /** @var array<string, string> who was given a turn, by team */
    public array $turns = [];

    /**
     * @param  EventScope|null  $past  the record before the event; null when there was none
     * @param  FieldWriter|null  $writer  null for a look that is only to conclude
     * @param  LookScope|null  $found  what its look-ups have found already
     * @param  array<string, array{\Closure, \Closure}>  $compiled  formulas that wait, compiled, {@see LookUpCompiler::waiting}
     */
    public function __construct(
        private readonly Rule $rule,
        private readonly EventScope $event,
        private readonly ?EventScope $past,
        private readonly Viewer $viewer,
        private readonly ?FieldWriter $writer,
        private readonly bool $full,
        ?LookScope $found = null,
        private readonly array $compiled = [],
    ) {
        // without look-ups, names are the event's
        $this->scope = $found ?? ($rule->lookUps === [] ? $event : new LookScope($rule, $event, $viewer, $full));
    }

    /**
     * What a compiled look came to, for what waits until the record has settled.
     *
     * @param  list<int>  $fitting  rows that fitted
     * @param  list<array{rule: string|null, field: string|null, message: string}>  $problems
     */
    public function cameTo(array $fitting, RuleStatus $status, array $problems): void
    {
        $this->problems = $problems;
        $this->fitting = $fitting;
        $this->rows = array_fill_keys($fitting, 1);
        $this->changed = $status === RuleStatus::Acted;
        $this->status = $status;
    }

    public function run(): void
    {
        if ($this->rule->repeat === Repeat::Once && in_array($this->rule->key, (array) $this->event->record()->value(Record::ONCE), true)) {
            $this->isOver = true;
            $this->trace['skipped'] = self::ACTED;
            $this->trace['status'] = $this->status->value;

            return;
        }
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
            $this->trace['look_ups'] = $this->lookUps();
            $this->trace['status'] = $this->status->value;
            $this->scope instanceof LookScope && $this->noteTables($this->scope->tables());
        } else {
            $this->gather();
        }
    }

    /** At outcome level only which rows of tables were hit is kept of what was read. */
    private function gather(): void
    {
        $reads = $this->viewer->reads;
        $reads->values = [];
        if ($reads->tables !== []) {
            $this->noteTables($reads->tables);
            $reads->tables = [];
        }
    }

    /** @return list<array<string, mixed>> */
    private function lookUps(): array
    {
        return $this->scope instanceof LookScope ? $this->scope->trace() : [];
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
        if (! $this->full) {
            return $this->rule->onlyIf->value($this->scope, new Warnings) === true;
        }
        [$value, $seen] = $this->evaluate($this->rule->onlyIf);
        $this->trace['only_if'] = ['formula' => $this->rule->onlyIf->source, 'result' => Values::json($value), ...$seen];

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
                $value = array_key_exists($column, $this->checks) ? $this->checks[$column] : $this->check($column);
                $this->full && $this->viewer->reads->take();
                $warnings = new Warnings;
                $holds = $tests->hold($value, $this->scope, $warnings) === true;
                $this->full && $this->noteTables($this->viewer->reads->take()['tables']);
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
            if ($this->rule->repeat === Repeat::BecomesTrue && $this->heldBefore($number)) {
                $this->isOver = true;
                $this->trace['skipped'] = self::HELD;

                continue;
            }
            foreach ($this->rule->needed[$number] ?? [] as $name) {
                // what may end the rule is found before the row's first change, so that nothing is half done
                $this->scope->get($name);
            }
            $this->rows[$number] = 1;
            $this->fitting[] = $number;
            if ($this->rule->repeat === Repeat::Once) {
                $record = $this->event->record();
                $this->event->becomes($record->with(Record::ONCE, [...(array) $record->value(Record::ONCE), $this->rule->key]));
            }
            $cells = $this->rule->rows[$number]->then;
            foreach ($this->rule->immediate as $column => $change) {
                if ($cells[$column] !== null) {
                    $this->change($number, $column, $change, $cells[$column]);
                }
            }
        }
    }

    /** Whether the condition and a row held on the record before the event. */
    public function heldBefore(int $row): bool
    {
        if ($this->past === null) {
            return false;
        }
        $scope = new LookScope($this->rule, $this->past, $this->viewer);
        $outer = $this->viewer->reads->take();
        try {
            if ($this->rule->onlyIf !== null && $this->rule->onlyIf->value($scope, new Warnings) !== true) {
                return false;
            }
            foreach ($this->rule->rows[$row]->if as $column => $tests) {
                if (! $tests->alwaysHolds() && $tests->hold($this->rule->checks[$column]->value($scope, new Warnings), $scope, new Warnings) !== true) {
                    return false;
                }
            }

            return true;
        } catch (SkipRule) {
            return false;
        } finally {
            $this->viewer->reads->take();
            $this->viewer->reads->values = $outer['reads'];
            $this->viewer->reads->tables = $outer['tables'];
        }
    }

    /** @return array{look_ups: list<array<string, mixed>>, status: string} for the trace, as it stands once everything has been read */
    public function found(): array
    {
        return ['look_ups' => $this->lookUps(), 'status' => $this->status->value];
    }

    /**
     * What waited until the record had settled, its cells evaluated now.
     *
     * @return array{list<Action>, list<string>, list<array<string, mixed>>} actions, reasons why the save is turned down, and what was done for the trace
     */
    public function conclude(): array
    {
        [$actions, $refused, $trace] = [[], [], []];
        $value = fn (Formula $f): mixed => $this->evaluate($f)[0];
        if (! $this->full) {
            // which rows of tables were hit is gathered once the look is over
            $value = function (Formula $f): mixed {
                $compiled = $this->compiled[$f->source] ?? null;
                try {
                    return $compiled === null ? $f->value($this->scope, new Warnings) : $compiled[0]($this->event, $this->scope, $this->warnings ??= new Warnings);
                } catch (EvaluationStopped) {
                    // it takes more to know
                    return $f->value($this->scope, new Warnings);
                }
            };
        }
        foreach ($this->fitting as $number) {
            foreach ($this->rule->waiting as $column => $change) {
                $cell = $this->rule->rows[$number]->then[$column];
                if ($cell === null) {
                    continue;
                }
                $seen = [];
                $result = $action = $problem = null;
                try {
                    if ($this->full) {
                        [$result, $seen] = $this->evaluate($cell);
                    } else {
                        $result = $value($cell);
                    }
                    if ($change instanceof FieldChange) {
                        $found = $this->scope->get((string) $change->of);
                        $ids = array_values(array_filter(array_map(fn (mixed $v): ?string => $v instanceof RecordView ? $v->identity() : null, is_array($found) ? $found : [$found])));
                        $action = $ids === [] ? null : new Action($this->rule->key, $change->kind(), $this->event->id, ['field' => $change->field], $change, $result, $ids);
                    } elseif ($change instanceof ActionChange) {
                        $data = $change->action($result, $value, $this->viewer->rulebook);
                        if ($data !== null && $change instanceof RefuseChange) {
                            $refused[] = is_string($data['reason'] ?? null) ? $data['reason'] : '';
                        }
                        $action = $data === null ? null : new Action($this->rule->key, $change->kind(), $this->event->id, $data);
                    }
                } catch (Misfit $misfit) {
                    $problem = sprintf('"%s" was not done: %s', $change->kind(), $misfit->getMessage());
                    $this->problem(null, $problem);
                } catch (SkipRule $skip) {
                    $problem = $skip->isProblem ? $skip->getMessage() : null;
                    $skip->isProblem && $this->problem(null, $skip->getMessage());
                }
                if ($action !== null && ! $change instanceof RefuseChange) {
                    $actions[] = $action;
                    $this->changed = true;
                }
                $this->full && $trace[] = ['rule' => $this->rule->key, 'row' => $number, 'column' => $column, 'kind' => $change->kind(), 'field' => $change instanceof FieldChange ? $change->field : null, 'of' => $change instanceof FieldChange ? $change->of : null, 'formula' => $cell->source, 'cell' => Values::json($result), 'records' => array_slice($action->ids ?? [], 0, 20), 'count' => count($action->ids ?? []), 'data' => $action?->data, 'problem' => $problem, ...$seen];
            }
        }
        $this->full || $this->gather();
        $this->settleStatus();

        return [$actions, $refused, $trace];
    }

    private function check(int $column): mixed
    {
        if (! $this->full) {
            return $this->checks[$column] = $this->rule->checks[$column]->value($this->scope, new Warnings);
        }
        [$value, $seen] = $this->evaluate($this->rule->checks[$column]);
        $this->trace['checks'][] = ['column' => $column, 'of' => $this->rule->checks[$column]->source, 'value' => Values::json($value), ...$seen];

        return $this->checks[$column] = $value;
    }

    private function change(int $row, int $column, FieldChange $change, Formula $cell): void
    {
        [$value, $seen] = $this->evaluate($cell);
        $writer = $this->writer ?? throw new \LogicException('This look changes nothing.');
        $written = $writer->write($change, $value, fn (): mixed => $this->past === null ? null : $cell->value(new LookScope($this->rule, $this->past, $this->viewer), new Warnings));
        if ($written->turns !== []) {
            $this->turns = [...$this->turns, ...$written->turns];
        }
        if ($written->problem !== null) {
            $this->problem($change->field, $written->problem);
        }
        if ($written->isMade) {
            $this->changes[] = $written->told($this->rule->key);
            $this->changed = true;
        }
        if ($this->full) {
            $told = $written->told($this->rule->key);
            $this->trace['changes'][] = ['row' => $row, 'column' => $column, 'kind' => $change->kind(), 'field' => $change->field, 'formula' => $cell->source, 'cell' => Values::json($value), 'before' => $told['before'], 'after' => $told['after'], 'made' => $written->isMade, 'why' => $written->why, 'problem' => $written->problem, ...$seen];
        }
    }

    /** @return array{mixed, array<string, mixed>} the value, and what was read for it */
    private function evaluate(Formula $formula): array
    {
        if (! $this->full) {
            // which rows of tables were hit is gathered once the look is over
            return [$formula->value($this->scope, new Warnings), []];
        }
        $this->viewer->reads->take();
        $warnings = new Warnings;
        $compiled = $this->compiled[$formula->source] ?? null;
        try {
            $value = $compiled === null ? $formula->value($this->scope, $warnings) : $compiled[1]($this->event, $this->scope, $warnings, $this->viewer->reads);
        } catch (EvaluationStopped) {
            // it takes more to know
            $this->viewer->reads->take();
            $warnings = new Warnings;
            $value = $formula->value($this->scope, $warnings);
        }
        $seen = $this->viewer->reads->take();
        $this->noteTables($seen['tables']);

        return [$value, [...Reads::plain($seen), 'warnings' => $warnings->all()]];
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
