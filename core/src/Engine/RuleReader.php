<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

use Sorvel\Core\Feel\Compiler;
use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Feel\Functions;
use Sorvel\Core\Feel\Node;
use Sorvel\Core\Feel\Node\AnyValue;
use Sorvel\Core\Feel\Node\Arithmetic;
use Sorvel\Core\Feel\Node\Call;
use Sorvel\Core\Feel\Node\Comparison;
use Sorvel\Core\Feel\Node\IfThenElse;
use Sorvel\Core\Feel\Node\ListOf;
use Sorvel\Core\Feel\Node\Literal;
use Sorvel\Core\Feel\Node\Logic;
use Sorvel\Core\Feel\Node\Name;
use Sorvel\Core\Feel\Node\Negation;
use Sorvel\Core\Feel\Node\Path;
use Sorvel\Core\Feel\Node\UnaryComparison;
use Sorvel\Core\Feel\Temporal\DaysDuration;
use Sorvel\Core\Feel\Temporal\MonthsDuration;
use Sorvel\Core\Feel\Values;
use Sorvel\Core\Feel\Walk;
use Sorvel\Core\Feel\Warnings;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\FieldType;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Rule\FieldChange;
use Sorvel\Core\Rule\Rule;

/** What the formulas of one rule read, as PHP: fields where they are stored, look-ups where they are found; in full, with what is told of it. */
final class RuleReader
{
    /** Types whose values a formula sees otherwise than they are stored, and which note nothing themselves. */
    private const SEEN = [FieldType::Date, FieldType::DateTime, FieldType::Duration, FieldType::Person, FieldType::Team];

    /** @var array<string, string> by field that a look-up does not hide, what reads it where it is stored */
    public readonly array $own;

    /** @var array<string, string> the same by field of `record` */
    public readonly array $record;

    public readonly Paths $paths;

    /** Notes what is read in $r. */
    private readonly Paths $notedPaths;

    /** Notes it where scopes do. */
    public readonly Paths $fullPaths;

    /** Notes nothing that it reads where it is stored. */
    public readonly Compiler $light;

    /** Notes it in $r. */
    private readonly Compiler $noted;

    /** In full notes it where scopes do. */
    public readonly Compiler $full;

    /** What holds the record's values. */
    public readonly string $values;

    /** @var array<string, string> look-ups that need no scope of their own, {@see inline} */
    public readonly array $inline;

    /**
     * @param  array<string, RecordType>  $types
     * @param  bool  $isTelling  in full
     * @param  bool  $isAmong  for a look among those of other rules, with the record's values in $now
     * @param  array<string, string>  $still  fields that nothing changes meanwhile, each in a variable
     * @param  SameCode|null  $same  what all these rules tell alike
     */
    public function __construct(private readonly Rule $rule, private readonly RecordType $type, array $types, public readonly bool $isTelling = false, private readonly bool $isAmong = false, array $still = [], private readonly ?SameCode $same = null)
    {
        $this->values = $isAmong ? '$now' : '$e->values';
        [$own, $record, $known, $shown] = [[], [], [], []];
        foreach ($type->fields as $field) {
            $key = self::text($field->key);
            $record[$field->key] = $still[$field->key] ?? sprintf('(%s[%s]??null)', $this->values, $key);
            if (! isset($rule->lookUps[$field->key])) {
                $own[$field->key] = $record[$field->key];
                if (! $field->isPlain) {
                    $known[$field->key] = sprintf($isTelling ? '$e->get(%s)' : '$e->seen(%s)', $key);
                    $shown[$field->key] = $isTelling && in_array($field->behavesAs(), self::SEEN, true) ? sprintf('(($r[%1$s]=%2$s)===null?null:$e->shown(%1$s))', $key, $own[$field->key]) : $known[$field->key];
                }
            }
        }
        $record = isset($rule->lookUps['record']) ? [] : $record;
        [$this->own, $this->record] = [$own, $record];
        $hidden = array_map(strval(...), array_keys($rule->lookUps));
        $aliases = ! $isTelling && $isAmong ? $this->aliases($own) : [];
        $this->paths = new Paths($types, $type, $type, $own, $record, null, $hidden, $aliases);
        $this->inline = ! $isAmong ? [] : ($isTelling ? $this->found() : $this->inline($known));
        $this->light = new Compiler([...$known, ...$this->inline], $this->paths);
        $this->notedPaths = $isTelling ? new Paths($types, $type, $type, $own, $record, '$r', $hidden) : $this->paths;
        $this->noted = new Compiler([...$shown, ...$this->inline], $this->notedPaths);
        $this->fullPaths = $isTelling ? new Paths($types, $type, $type, $own, $record, '$z->values', $hidden) : $this->paths;
        $this->full = new Compiler([...$known, ...$this->inline], $this->fullPaths);
    }

    /**
     * Look-ups that are no more than a path from a field that the rule itself does not change: whenever they are read, it
     * is the same.
     *
     * @param  array<string, string>  $own
     * @return array<string, Node>
     */
    private function aliases(array $own): array
    {
        $changed = array_map(fn (FieldChange $c): string => $c->field, $this->rule->immediate);
        $aliases = [];
        foreach ($this->rule->lookUps as $name => $lookUp) {
            $root = $lookUp->value === null ? null : Paths::root($lookUp->value->tree);
            if ($lookUp->value !== null && $lookUp->none === 'null' && $root !== null && isset($own[$root]) && ! in_array($root, $changed, true)) {
                $aliases[$name] = $lookUp->value->tree;
            }
        }

        return $aliases;
    }

    /**
     * Look-ups that are no more than a value, where there are no others: each in a variable, which holds $k until it has
     * been found.
     *
     * @param  array<string, string>  $known
     * @return array<string, string> by look-up
     */
    private function inline(array $known): array
    {
        $inline = [];
        foreach ($this->rule->lookUps as $name => $lookUp) {
            $later = array_slice(array_keys($this->rule->lookUps), count($inline));
            if ($lookUp->type !== null || $lookUp->value === null || $this->rule->waiting !== [] || array_intersect([...Walk::names($lookUp->value->tree), ...($lookUp->use === null ? [] : Walk::names($lookUp->use->tree))], $later) !== []) {
                return [];
            }
            $of = new Compiler([...$known, ...$inline], $this->paths, sprintf('$l%d_', count($inline)));
            $code = $of->expression($lookUp->value->tree);
            $none = match ($lookUp->none) {
                'use' => $lookUp->use === null ? 'null' : $of->expression($lookUp->use->tree),
                'skip_rule', 'problem' => sprintf('$k->none(%s,%s)', self::text((string) $name), $lookUp->none === 'problem' ? 'true' : 'false'),
                default => null,
            };
            $inline[$name] = sprintf('($l%1$d===$k?($l%1$d=%2$s):$l%1$d)', count($inline), $none === null ? $code : sprintf('((($y=%s)===null||$y===\'\'||$y===[])?%s:$y)', $code, $none));
        }

        return $inline;
    }

    /**
     * As {@see inline}, in full: what is found is told, and so it is found in a statement of its own, before a formula that
     * reads it whatever else it comes to.
     *
     * @return array<string, string> by look-up, the variable that holds it
     */
    private function found(): array
    {
        $names = array_map(strval(...), array_keys($this->rule->lookUps));
        $formulas = [$this->rule->onlyIf, ...$this->rule->checks];
        foreach ($this->rule->rows as $row) {
            array_push($formulas, ...$row->then);
            foreach ($row->if as $tests) {
                foreach ($tests->tests as $test) {
                    if (array_intersect(Walk::names($test), $names) !== []) {
                        return [];
                    }
                }
            }
        }
        foreach (array_values($this->rule->lookUps) as $at => $lookUp) {
            if ($lookUp->type !== null || $lookUp->value === null || $this->rule->waiting !== [] || array_intersect([...Walk::names($lookUp->value->tree), ...($lookUp->use === null ? [] : Walk::names($lookUp->use->tree))], array_slice($names, $at)) !== []) {
                return [];
            }
            array_push($formulas, $lookUp->value, $lookUp->use);
        }
        foreach (array_filter($formulas) as $formula) {
            if (array_diff(array_intersect(Walk::names($formula->tree), $names), self::always($formula->tree)) !== []) {
                return [];
            }
        }

        return array_combine($names, array_map(fn (int $at): string => '$l'.$at, array_keys($names)));
    }

    /** @return list<string> names that are read whatever else a formula comes to */
    private static function always(Node $node): array
    {
        return match (true) {
            $node instanceof Name => [$node->name],
            $node instanceof Path => self::always($node->of),
            $node instanceof Comparison, $node instanceof Arithmetic, $node instanceof Negation, $node instanceof ListOf => array_merge(...array_map(self::always(...), [...$node->parts()]), ...[[]]),
            $node instanceof Call => $node->function instanceof Name && Functions::find($node->function->name) !== null && array_is_list($node->arguments) ? array_merge(...array_map(self::always(...), $node->arguments), ...[[]]) : [],
            $node instanceof IfThenElse => self::always($node->condition),
            $node instanceof Logic => self::always($node->left),
            default => [],
        };
    }

    /** In full, the look-ups that a formula reads are found before it. */
    private function foundBefore(Formula $formula): string
    {
        $code = '';
        foreach ($this->isTelling ? array_intersect(array_map(strval(...), array_keys($this->inline)), Walk::names($formula->tree)) : [] as $name) {
            $code .= $this->find($name);
        }

        return $code;
    }

    public function find(string $name): string
    {
        $lookUp = $this->rule->lookUps[$name];
        $variable = $this->inline[$name];
        $plain = '$p'.substr($variable, 2);
        $value = $lookUp->value ?? throw new \LogicException('Only a value is found so.');
        $use = $lookUp->none === 'use' && $lookUp->use !== null
            ? sprintf('if($none){$y=$u;%s$u=[\'reads\'=>$u[\'reads\']+$y[\'reads\'],\'tables\'=>[...$y[\'tables\'],...$u[\'tables\']],\'warnings\'=>[...$y[\'warnings\'],...$u[\'warnings\']]];}', $this->evaluated($variable, $lookUp->use, '$u', ''))
            : '';

        return sprintf(
            'if(%1$s===$k){%2$s$none=%1$s===null||%1$s===\'\'||%1$s===[];%3$s%4$s=is_scalar(%1$s)||%1$s===null?%1$s:\\%5$s::brief(%1$s);$tl[]=[\'name\'=>%6$s,\'kind\'=>\'value\',\'formula\'=>%7$s,\'value\'=>%4$s,\'found\'=>$none?0:(is_array(%1$s)?count(%1$s):1),\'records\'=>null,\'none\'=>$none?%8$s:null,\'several\'=>null]+$u;%9$s}',
            $variable, $this->evaluated($variable, $value, '$u', ''), $use, $plain, LookScope::class, self::text($name), self::text($lookUp->formula()), self::text($lookUp->none),
            in_array($lookUp->none, ['skip_rule', 'problem'], true) ? sprintf('if($none)$k->none(%s,%s);', self::text($name), $lookUp->none === 'problem' ? 'true' : 'false') : '',
        );
    }

    /**
     * A formula's value in a variable; in full also what is told of it, and what it read.
     *
     * @param  string  $into  where that goes
     * @param  string  $told  entries of it, as PHP
     * @param  Field|null  $for  the field that the value is for, which takes it as it is stored
     */
    public function evaluated(string $variable, Formula $formula, string $into, string $told, ?Field $for = null): string
    {
        $stored = $for === null ? null : $this->stored($formula, $for);
        if (! $this->isTelling) {
            return sprintf('%s=%s;', $variable, $stored ?? $this->formula($formula));
        }
        $finds = $this->foundBefore($formula);
        $found = array_intersect(array_map(strval(...), array_keys($this->inline)), Walk::names($formula->tree));
        $also = fn (string $in): string => implode('', array_map(fn (string $name): string => sprintf('%s[%s]=%s;', $in, self::text($name), '$p'.substr($this->inline[$name], 2)), $found));
        $told .= $told === '' ? '' : ',';
        $reads = $stored === null ? $this->reads($formula->tree) : null;
        $light = $stored ?? ($reads === null ? $this->noted : $this->light)->expression($formula->tree);
        if (self::usesScope($light)) {
            return $finds.sprintf('$w=new \%s;%s=%s;%s%s=[%s]+$k->read($w);', Warnings::class, $variable, $this->formula($formula), $also('$z->values'), $into, rtrim($told, ','));
        }
        [$before, $warnings] = $this->warnings($light);
        if ($reads !== null) {
            $noted = implode(',', array_map(fn (string $name): string => self::text($name).'=>'.($this->isNumber($name) ? sprintf('(is_object($r=%s)?\%s::plain($r):$r)', $this->own[$name], Record::class) : $this->own[$name]), $reads));

            $entry = sprintf('[%s\'reads\'=>[%s],\'tables\'=>[],\'warnings\'=>%s]', $told, $noted, $warnings);
            $isStill = $before === '' && array_filter($reads, fn (string $name): bool => ! str_starts_with($this->own[$name], '$')) === [];

            return $finds.$before.sprintf('%s=%s;%s=%s;', $variable, $light, $into, $isStill && $this->same !== null ? $this->same->once($entry) : $entry);
        }
        $plain = $also('$r');
        foreach ($this->numbers($formula->tree) as $path) {
            $plain .= sprintf('if(is_object($r[%1$s]??null))$r[%1$s]=\%2$s::plain($r[%1$s]);', self::text($path), Record::class);
        }

        return $finds.$before.sprintf('$r=[];%s=%s;%s%s=[%s\'reads\'=>$r,\'tables\'=>[],\'warnings\'=>%s];', $variable, $light, $plain, $into, $told, $warnings);
    }

    private function isNumber(string $field): bool
    {
        return in_array(($this->type->fields[$field] ?? null)?->behavesAs(), [FieldType::Number, FieldType::Percent], true);
    }

    /** @return list<string> paths of numbers that a formula reads */
    private function numbers(Node $tree): array
    {
        $paths = [];
        foreach (Walk::all($tree) as $node) {
            $at = $this->paths->of($node);
            if ($at !== null && $at['path'] !== '' && in_array($at['type'], [FieldType::Number, FieldType::Percent], true)) {
                $paths[$at['path']] = $at['path'];
            }
        }

        return array_values($paths);
    }

    /** What a formula comes to as a field stores it, where that is read from a field that stores the same. */
    public function stored(Formula $formula, Field $for): ?string
    {
        if ($for->type === FieldType::Duration && $formula->tree instanceof Literal && ($formula->tree->value instanceof DaysDuration || $formula->tree->value instanceof MonthsDuration)) {
            return self::text((string) $formula->tree->value);
        }
        if (! in_array($for->type, [FieldType::Person, FieldType::Team, FieldType::Reference], true)) {
            return null;
        }
        $paths = $this->isTelling ? $this->notedPaths : $this->paths;
        $at = $paths->of($formula->tree);

        // as a word, since what is no longer there is nothing
        return $at !== null && $at['type'] === $for->type && $at['to'] === $for->to ? $paths->word($formula->tree) : null;
    }

    /** Whether names are asked of a scope, which notes them. */
    public static function usesScope(string $code): bool
    {
        return preg_match('~\$[sz]\b|\$e->(get|seen)\(~', $code) === 1;
    }

    /** @return list<string>|null the fields that a formula reads, when it always reads all of them and nothing else */
    private function reads(Node $tree): ?array
    {
        $names = [];
        foreach (Walk::all($tree) as $node) {
            $isStraight = match ($node::class) {
                Name::class => isset($this->own[$node->name]),
                Literal::class, Comparison::class, Arithmetic::class, Negation::class, AnyValue::class => true,
                default => false,
            };
            if (! $isStraight) {
                return null;
            }
            $node instanceof Name && $names[$node->name] = true;
        }

        return array_map(strval(...), array_keys($names));
    }

    /** @return array{string, string} what has to stand before some code, so that its warnings are its own; and what holds them afterwards */
    public function warnings(string $code): array
    {
        return preg_match('~\$w\b~', $code) === 1 ? [sprintf('if($w->list!==[])$w=new \%s;', Warnings::class), '$w->list'] : ['', '[]'];
    }

    /**
     * Where an entry of a list that is told goes.
     *
     * @param  'checks'|'rows'|'changes'  $list
     */
    public function into(string $list): string
    {
        return ! $this->isAmong ? sprintf('$t[\'%s\'][]', $list) : ['checks' => '$tc', 'rows' => '$tr', 'changes' => '$tg'][$list].'[]';
    }

    /** What a check comes to as a text or null, where nothing is asked of it but which text it equals, or whether it is null. */
    public function wordOf(int $column): ?string
    {
        foreach ($this->rule->rows as $row) {
            foreach ($row->if[$column]->alwaysHolds() ? [] : $row->if[$column]->tests as $test) {
                $of = $test instanceof UnaryComparison ? $test->right : $test;
                if (! $of instanceof Literal || (! is_string($of->value) && $of->value !== null) || ($test instanceof UnaryComparison && $of->value !== null)) {
                    return null;
                }
            }
        }

        return $this->paths->word($this->rule->checks[$column]->tree);
    }

    /** Whether nothing changes what a check reads while the rows are read, and reading it is no work. */
    public function isStanding(Formula $check): bool
    {
        return ! $this->isTelling && $check->tree instanceof Name && str_starts_with($this->own[$check->tree->name] ?? '', '$') && $this->type->fields[$check->tree->name]->isPlain;
    }

    public static function text(string $text): string
    {
        return var_export($text, true);
    }

    /** The value of a formula in a variable, as plain data. */
    public function plain(string $variable, ?Formula $formula): string
    {
        $compiler = $this->light;
        if ($formula !== null && ($compiler->isTextOrNull($formula->tree) || $compiler->isSure($formula->tree))) {
            return $variable;
        }

        return sprintf('(is_scalar(%1$s)?%1$s:\%2$s::json(%1$s))', $variable, Values::class);
    }

    public function formula(Formula $formula): string
    {
        return $this->full->expression($formula->tree);
    }

    /** Whether it calls something that is not built in, which may leave a mark: a table; or reads a look-up, which may end the rule. */
    public function calls(Formula $formula): bool
    {
        foreach (Walk::all($formula->tree) as $node) {
            if (($node instanceof Call && (! $node->function instanceof Name || Functions::find($node->function->name) === null)) || ($node instanceof Name && isset($this->rule->lookUps[$node->name]))) {
                return true;
            }
        }

        return false;
    }
}
