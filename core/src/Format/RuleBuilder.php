<?php

declare(strict_types=1);

namespace Sorvel\Core\Format;

use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Feel\UnaryTests;
use Sorvel\Core\Finding\FormulaCheck;
use Sorvel\Core\Finding\KnownType;
use Sorvel\Core\Finding\Names;
use Sorvel\Core\Model\Person;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Team;
use Sorvel\Core\Rule\ChangeColumn;
use Sorvel\Core\Rule\Repeat;
use Sorvel\Core\Rule\Rule;
use Sorvel\Core\Table\Row;

/** Rules. */
final class RuleBuilder
{
    private ?RuleContext $rule = null;

    /**
     * @param  \Closure(RecordType): Names  $namesOf
     * @param  array<string, RecordType>  $types
     * @param  array<string, Person>  $people
     * @param  array<string, Team>  $teams
     */
    public function __construct(private readonly RulebookBuilder $book, private readonly \Closure $namesOf, private readonly array $types, private readonly array $people, private readonly array $teams)
    {
    }

    /** @param  array<string, mixed>  $r */
    public function rule(array $r, string $path): ?Rule
    {
        $on = $this->book->typesOf($r['on'], $path.'/on', $this->types);
        if ($on === []) {
            return null;
        }
        $this->rule = $rule = new RuleContext($this->book, $on, array_map($this->namesOf, $on), $this->types, $this->teams);
        if (isset($r['owner']) && ! isset($this->people[$r['owner']])) {
            $this->book->error($path.'/owner', sprintf('There is no person "%s".', $r['owner']));
        }
        $starts = [];
        foreach ($r['starts'] as $i => $start) {
            $starts[] = (new StartBuilder($rule))->start($start, $path.'/starts/'.$i, $i);
        }
        $starts = array_values(array_filter($starts));
        $rule->name('event', StartBuilder::event($starts));
        $lookUps = [];
        foreach ($r['look_ups'] ?? [] as $i => $l) {
            $lookUp = (new LookUpBuilder($rule))->lookUp($l, $path.'/look_ups/'.$i);
            if ($lookUp !== null) {
                $lookUps[$lookUp->name] = $lookUp;
            }
        }
        $onlyIf = isset($r['only_if']) ? $this->book->formula($path.'/only_if', $r['only_if']) : null;
        if ($onlyIf !== null) {
            foreach ($rule->names as $names) {
                $this->book->checkYesNo($path.'/only_if', $onlyIf, $names);
            }
        }
        $checks = [];
        foreach ($r['checks'] ?? [] as $i => $check) {
            $checks[] = $rule->formula($path.'/checks/'.$i.'/of', $check['of']) ?? Formula::parse('null');
        }
        $changes = [];
        foreach ($r['changes'] as $i => $change) {
            $changes[] = (new ChangeBuilder($rule))->change($change, $path.'/changes/'.$i);
        }
        $rows = [];
        $known = array_map(fn (Formula $check): array => array_map(fn (Names $n): KnownType => FormulaCheck::formula($check, $n)->type, $rule->names), $checks);
        foreach ($r['rows'] as $i => $row) {
            $rows[] = $this->row($row, $path.'/rows/'.$i, $checks, $known, $changes, $rule);
        }

        return new Rule(
            $r['key'], $r['title'], array_map(fn (RecordType $t): string => $t->key, $on), $r['enabled'] ?? true,
            $starts, $onlyIf, $lookUps, ($r['decide'] ?? 'first') === 'every', $checks, array_values(array_filter($changes)), $rows,
            Repeat::from($r['repeat'] ?? 'each'), $r['owner'] ?? null,
        );
    }

    /** Once the rule is built: what its formulas may name, for the first type that it runs on; null when it is on none. */
    public function names(): ?Names
    {
        return $this->rule?->names[0];
    }

    /**
     * @param  array<string, mixed>  $row
     * @param  list<Formula>  $checks
     * @param  list<list<KnownType>>  $known  of each check, by type that the rule runs on
     * @param  list<ChangeColumn|null>  $changes
     */
    private function row(array $row, string $path, array $checks, array $known, array $changes, RuleContext $rule): Row
    {
        foreach (['if' => [$checks, 'checks'], 'then' => [$changes, 'changes']] as $side => [$columns, $what]) {
            if (count($row[$side]) !== count($columns)) {
                $this->book->error($path.'/'.$side, sprintf('%d cells for %d %s.', count($row[$side]), count($columns), $what));
            }
        }
        $if = [];
        foreach (array_keys($checks) as $i) {
            $tests = $this->book->tests($path.'/if/'.$i, $row['if'][$i] ?? '-');
            $if[] = $tests ?? UnaryTests::parse('-');
            if ($tests !== null) {
                $rule->testsOf($path.'/if/'.$i, $tests, $known[$i]);
            }
        }
        $then = [];
        foreach ($changes as $i => $change) {
            $cell = $row['then'][$i] ?? '-';
            $formula = RulebookBuilder::text($cell) === '-' ? null : $this->book->formula($path.'/then/'.$i, $cell);
            if ($change !== null && $formula !== null) {
                (new ChangeBuilder($rule))->cell($change, $formula, $path.'/then/'.$i);
            }
            $then[] = $formula;
        }

        return new Row($if, array_slice($then, 0, count(array_filter($changes))));
    }
}
