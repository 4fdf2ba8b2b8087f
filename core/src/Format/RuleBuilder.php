<?php

declare(strict_types=1);

namespace Sorvel\Core\Format;

use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Feel\UnaryTests;
use Sorvel\Core\Finding\FormulaCheck;
use Sorvel\Core\Finding\KnownType;
use Sorvel\Core\Finding\Names;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Rule\AddChange;
use Sorvel\Core\Rule\ChangeColumn;
use Sorvel\Core\Rule\ChangedStart;
use Sorvel\Core\Rule\ClearChange;
use Sorvel\Core\Rule\CreatedStart;
use Sorvel\Core\Rule\LookUp;
use Sorvel\Core\Rule\Rule;
use Sorvel\Core\Rule\SetChange;
use Sorvel\Core\Rule\Start;
use Sorvel\Core\Rule\When;
use Sorvel\Core\Table\Row;

/** Rules. A new start or change kind is registered here. */
final class RuleBuilder
{
    private const STARTS = ['changed', 'received', 'answered', 'at', 'by_hand', 'related'];

    private const CHANGES = ['set', 'add', 'clear', 'remove', 'raise', 'prefix', 'suffix', 'assign', 'note', 'message', 'notify', 'call', 'create', 'refuse'];

    /** @var non-empty-list<RecordType> */
    private array $on;

    /** @var non-empty-list<Names> one a type */
    private array $names;

    /**
     * @param  \Closure(RecordType): Names  $namesOf
     * @param  array<string, RecordType>  $types
     */
    public function __construct(private readonly RulebookBuilder $book, private readonly \Closure $namesOf, private readonly array $types)
    {
    }

    /** @param  array<string, mixed>  $r */
    public function rule(array $r, string $path): ?Rule
    {
        $on = $this->book->typesOf($r['on'], $path.'/on', $this->types);
        if ($on === []) {
            return null;
        }
        $this->on = $on;
        $this->names = array_map($this->namesOf, $on);
        if (($r['repeat'] ?? 'each') !== 'each') {
            $this->book->unsupported($path.'/repeat', sprintf('"repeat: %s" is', $r['repeat']));
        }
        $starts = [];
        foreach ($r['starts'] as $i => $start) {
            $starts[] = $this->start($start, $path.'/starts/'.$i);
        }
        $lookUps = $this->lookUps($r['look_ups'] ?? [], $path);
        $onlyIf = isset($r['only_if']) ? $this->book->formula($path.'/only_if', $r['only_if']) : null;
        if ($onlyIf !== null) {
            foreach ($this->names as $names) {
                $this->book->checkYesNo($path.'/only_if', $onlyIf, $names);
            }
        }
        $checks = [];
        foreach ($r['checks'] ?? [] as $i => $check) {
            $formula = $this->book->formula($path.'/checks/'.$i.'/of', $check['of']);
            $checks[] = $formula ?? Formula::parse('null');
            $this->checkAll($path.'/checks/'.$i.'/of', $formula);
        }
        $changes = [];
        foreach ($r['changes'] as $i => $change) {
            $changes[] = $this->change($change, $path.'/changes/'.$i);
        }
        $rows = [];
        $known = array_map(fn (Formula $check): array => array_map(fn (Names $n): KnownType => FormulaCheck::formula($check, $n)->type, $this->names), $checks);
        foreach ($r['rows'] as $i => $row) {
            $rows[] = $this->row($row, $path.'/rows/'.$i, $checks, $known, $changes);
        }
        $real = array_values(array_filter($changes));

        return new Rule(
            $r['key'], $r['title'], array_map(fn (RecordType $t): string => $t->key, $on), $r['enabled'] ?? true,
            array_values(array_filter($starts)), $onlyIf, $lookUps, ($r['decide'] ?? 'first') === 'every', $checks, $real, $rows,
        );
    }

    /** Once the rule is built: what its formulas may name, for the first type that it runs on. */
    public function names(): Names
    {
        return $this->names[0];
    }

    private function checkAll(string $path, ?Formula $formula): void
    {
        if ($formula === null) {
            return;
        }
        foreach ($this->names as $names) {
            $this->book->take($path, FormulaCheck::formula($formula, $names));
        }
    }

    private function start(mixed $start, string $path): ?Start
    {
        if ($start === 'created') {
            return new CreatedStart;
        }
        if (! is_array($start)) {
            $start === 'deleted' ? $this->book->unsupported($path, 'The start "deleted" is') : $this->book->error($path, sprintf('"%s" is not a start; write created, or {changed: [fields]}.', is_scalar($start) ? $start : '?'));

            return null;
        }
        $kind = array_values(array_intersect(self::STARTS, array_keys($start)));
        if ($kind !== ['changed']) {
            $kind === [] ? $this->book->error($path, 'A start needs "changed" with a list of fields.') : $this->book->unsupported($path, sprintf('The start "%s" is', end($kind) === 'changed' ? $kind[0] : end($kind)));

            return null;
        }
        if (isset($start['for'])) {
            $this->book->error($path.'/for', '"for" means nothing for the start "changed".');
        }
        $known = KnownType::any();
        foreach ($start['changed'] as $i => $key) {
            $field = $this->field($key, $path.'/changed/'.$i);
            $known = $field === null ? $known : KnownType::ofField($field, $this->types);
        }
        $tests = [];
        foreach (['from', 'to'] as $end) {
            $tests[$end] = isset($start[$end]) ? $this->book->tests($path.'/'.$end, $start[$end]) : null;
            if (isset($start[$end]) && count($start['changed']) > 1) {
                $this->book->error($path.'/'.$end, sprintf('"%s" needs a start on a single field.', $end));
            } elseif ($tests[$end] !== null) {
                $this->testsOf($path.'/'.$end, $tests[$end], array_map(fn (Names $n): KnownType => $n->names[$start['changed'][0]] ?? $known, $this->names));
            }
        }

        return new ChangedStart($start['changed'], $tests['from'], $tests['to']);
    }

    /** @param  list<KnownType>  $known  what the tests are held against, by type that the rule runs on */
    private function testsOf(string $path, UnaryTests $tests, array $known): void
    {
        foreach ($this->names as $i => $names) {
            $this->book->take($path, FormulaCheck::tests($tests, $known[$i], $names));
        }
    }

    private function field(string $key, string $path, bool $writes = false): ?Field
    {
        $found = null;
        foreach ($this->on as $type) {
            $field = $this->book->fieldOf($type, $key, $path, $writes);
            $found ??= $field;
        }

        return $found;
    }

    /**
     * @param  list<array<string, mixed>>  $list
     * @return array<string, LookUp>
     */
    private function lookUps(array $list, string $path): array
    {
        $lookUps = [];
        foreach ($list as $i => $l) {
            $at = $path.'/look_ups/'.$i;
            foreach (['first', 'all'] as $kind) {
                if (isset($l[$kind])) {
                    $this->book->unsupported($at.'/'.$kind, sprintf('The look-up kind "%s" is', $kind));

                    continue 2;
                }
            }
            if (! isset($l['value'])) {
                $this->book->error($at, 'A look-up needs "value", a formula.');

                continue;
            }
            foreach (['where', 'order', 'several'] as $key) {
                if (isset($l[$key])) {
                    $this->book->error($at.'/'.$key, sprintf('"%s" means nothing for a look-up of a value.', $key));
                }
            }
            if (isset($this->names[0]->names[$l['name']])) {
                $this->book->error($at.'/name', sprintf('"%s" is already a name here; give the look-up another.', $l['name']));
            }
            $none = $l['none'] ?? null;
            $use = is_array($none) && isset($none['use']) ? $this->book->formula($at.'/none/use', $none['use']) : null;
            if (is_string($none) && ! in_array($none, ['null', 'skip_rule', 'problem'], true)) {
                $this->book->error($at.'/none', sprintf('"%s" is not known here; write null, skip_rule, problem or {use: formula}.', $none));
                $none = null;
            }
            $value = $this->book->formula($at.'/value', $l['value']);
            $this->checkAll($at.'/value', $value);
            $this->checkAll($at.'/none/use', $use);
            $this->names = array_map(fn (Names $n): Names => $n->with($l['name'], self::lookedUp($value, $use, $n)), $this->names);
            if ($value !== null) {
                $lookUps[$l['name']] = new LookUp($l['name'], $value, is_array($none) ? 'use' : ($none === 'skip_rule' || $none === 'problem' ? $none : 'null'), $use);
            }
        }

        return $lookUps;
    }

    /** With a value to use instead, only what both are. */
    private static function lookedUp(?Formula $value, ?Formula $use, Names $names): KnownType
    {
        $type = $value === null ? KnownType::any() : FormulaCheck::formula($value, $names)->type;
        $other = $use === null ? $type : FormulaCheck::formula($use, $names)->type;

        return $type->what === $other->what && $type->what !== 'null' ? $type : KnownType::any();
    }

    /** @param  array<string, mixed>  $c */
    private function change(array $c, string $path): ?ChangeColumn
    {
        $kinds = array_values(array_intersect(self::CHANGES, array_keys($c)));
        if (count($kinds) !== 1) {
            $this->book->error($path, $kinds === [] ? 'A change needs one of: set, add, clear.' : sprintf('A change is one of %s, not several.', implode(', ', $kinds)));

            return null;
        }
        if (! in_array($kinds[0], ['set', 'add', 'clear'], true)) {
            $this->book->unsupported($path.'/'.$kinds[0], sprintf('The change "%s" is', $kinds[0]));

            return null;
        }
        if (isset($c['of'])) {
            $this->book->unsupported($path.'/of', 'Changing other records ("of") is');
        }
        foreach (array_diff(array_keys($c), [$kinds[0], 'of', ...($kinds[0] === 'set' ? ['when'] : [])]) as $key) {
            $this->book->error($path.'/'.$key, sprintf('"%s" means nothing for "%s".', $key, $kinds[0]));
        }
        $field = $this->field($c[$kinds[0]], $path.'/'.$kinds[0], true);
        if ($field === null) {
            return null;
        }
        if ($field->fixed) {
            $this->book->error($path.'/'.$kinds[0], sprintf($field->isComputed() ? '%s follows from other fields; a rule cannot change it.' : '%s is kept by the desk itself; a rule cannot change it.', $field->label));
        }
        $when = When::from($c['when'] ?? 'always');
        if (($when === When::Higher || $when === When::Lower) && ! $field->type->hasOrder() && ! in_array($field->type->value, ['choice', 'state'], true)) {
            $this->book->error($path.'/when', sprintf('%s has no order, so "%s" means nothing.', $field->label, $when->value));
        }
        if ($kinds[0] === 'add' && ! $field->type->isList()) {
            $this->book->error($path.'/add', sprintf('%s is not a list; use set.', $field->label));
        }
        if ($kinds[0] === 'clear' && ($field->required || $field->key === 'state')) {
            $this->book->error($path.'/clear', sprintf('%s must not be empty, so it cannot be cleared.', $field->label));
        }

        return match ($kinds[0]) {
            'set' => new SetChange($field->key, $when),
            'add' => new AddChange($field->key),
            default => new ClearChange($field->key),
        };
    }

    /**
     * @param  array<string, mixed>  $row
     * @param  list<Formula>  $checks
     * @param  list<list<KnownType>>  $known  of each check, by type that the rule runs on
     * @param  list<ChangeColumn|null>  $changes
     */
    private function row(array $row, string $path, array $checks, array $known, array $changes): Row
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
                $this->testsOf($path.'/if/'.$i, $tests, $known[$i]);
            }
        }
        $then = [];
        foreach ($changes as $i => $change) {
            $cell = $row['then'][$i] ?? '-';
            $formula = RulebookBuilder::text($cell) === '-' ? null : $this->book->formula($path.'/then/'.$i, $cell);
            if ($change !== null && $formula !== null) {
                $this->checkChange($path.'/then/'.$i, $change, $formula);
            }
            $then[] = $formula;
        }

        return new Row($if, array_slice($then, 0, count(array_filter($changes))));
    }

    private function checkChange(string $path, ChangeColumn $change, Formula $formula): void
    {
        foreach ($this->on as $i => $type) {
            $field = $type->fields[$change->field()] ?? null;
            if ($field !== null) {
                $this->book->take($path, $change->kind() === 'clear'
                    ? FormulaCheck::formula($formula, $this->names[$i], new KnownType('yes_no'))
                    : FormulaCheck::value($formula, $field, $this->names[$i]));
            }
        }
    }
}
