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
use Sorvel\Core\Feel\UnaryTests;
use Sorvel\Core\Feel\Values;
use Sorvel\Core\Feel\Walk;
use Sorvel\Core\Feel\Warnings;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\FieldType;
use Sorvel\Core\Model\Kind\TagsKind;
use Sorvel\Core\Model\Option;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Rule\ActionChange;
use Sorvel\Core\Rule\AddChange;
use Sorvel\Core\Rule\AffixChange;
use Sorvel\Core\Rule\FieldChange;
use Sorvel\Core\Rule\LookUp;
use Sorvel\Core\Rule\RemoveChange;
use Sorvel\Core\Rule\Repeat;
use Sorvel\Core\Rule\Rule;
use Sorvel\Core\Rule\SetChange;
use Sorvel\Core\Rule\When;
use Sorvel\Core\Table\Row;

/**
 * One look of a rule at a record of one type, as PHP: its condition, its rows and its changes of the record itself. What
 * is common is written out; everything else goes to the settling, as when a rule is walked.
 *
 * At outcome level the closure is (EventScope $e, Scope $s, Warnings $w, Settling $k, list &$changes): int, and in full
 * (EventScope $e, Scope $s, Settling $k, Reads $z, array &$t, list &$changes): int, which also tells in $t what it read. The number
 * tells which way it took through the rows, {@see path}.
 */
final class RuleCompiler
{
    /** Types whose values a formula sees otherwise than they are stored, and which note nothing themselves. */
    private const SEEN = [FieldType::Date, FieldType::DateTime, FieldType::Duration, FieldType::Person, FieldType::Team];

    /** @var array<string, string> by field that a look-up does not hide, what reads it where it is stored */
    private readonly array $own;

    /** @var array<string, string> the same by field of `record` */
    private readonly array $record;

    private readonly Paths $paths;

    /** Notes what is read in $r. */
    private readonly Paths $notedPaths;

    /** Notes it where scopes do. */
    private readonly Paths $fullPaths;

    /** Notes nothing that it reads where it is stored. */
    private readonly Compiler $light;

    /** Notes it in $r. */
    private readonly Compiler $noted;

    /** In full notes it where scopes do. */
    private readonly Compiler $full;

    /** What holds the record's values. */
    private readonly string $values;

    /** @var array<string, string> look-ups that need no scope of their own, {@see inline} */
    private readonly array $inline;

    /** @var array<int, true> columns that have been read for sure */
    private array $come = [];

    /** Whether the settling need not know that it looks, unless it leaves a change to it. */
    private readonly bool $isQuiet;

    /** @var \WeakMap<Rule, array<int, array{list<int>, array<int, array<int, int>>}>>|null ways that have been told before */
    private static ?\WeakMap $told = null;

    /**
     * @param  array<string, RecordType>  $types
     * @param  list<string>  $limited  fields whose choices guards limit
     * @param  Watchers|null  $watchers  for a look among those of other rules
     * @param  array<string, string>  $still  fields that nothing changes meanwhile, each in a variable
     * @param  SameCode|null  $same  what all these rules tell alike
     * @param  array<string, int>  $ends  bits of derived fields that nothing else follows
     */
    private function __construct(private readonly Rule $rule, private readonly RecordType $type, array $types, private readonly array $limited, private readonly bool $isTelling = false, private readonly ?Watchers $watchers = null, private readonly int $place = 0, array $still = [], private readonly ?SameCode $same = null, private readonly array $ends = [])
    {
        $this->values = $watchers === null ? '$e->values' : '$now';
        [$known, $plain, $own, $record] = [[], [], [], []];
        foreach ($type->fields as $field) {
            $key = self::text($field->key);
            $record[$field->key] = $still[$field->key] ?? sprintf('(%s[%s]??null)', $this->values, $key);
            if (! isset($rule->lookUps[$field->key])) {
                $own[$field->key] = $record[$field->key];
                $plain[$field->key] = $field->isPlain;
                $known[$field->key] = $field->isPlain ? $own[$field->key] : sprintf($isTelling ? '$e->get(%s)' : '$e->seen(%s)', $key);
            }
        }
        isset($rule->lookUps['record']) && $record = [];
        [$this->own, $this->record] = [$own, $record];
        $hidden = array_map(strval(...), array_keys($rule->lookUps));
        $noted = fn (array $read, string $in): array => array_combine(array_keys($read), array_map(fn (string|int $name, string $code): string => sprintf('(%s[%s]=%s)', $in, self::text((string) $name), $code), array_keys($read), $read));
        $aliases = ! $isTelling && $watchers !== null ? $this->aliases($own) : [];
        $paths = fn (?string $in): Paths => new Paths($types, $type, $type, $in === null ? $own : $noted($own, $in), $in === null ? $record : $noted($record, $in), $in, $hidden, $aliases);
        $seen = [];
        foreach ($noted(array_filter($own, fn (string|int $name): bool => in_array($type->fields[$name]->behavesAs(), self::SEEN, true), ARRAY_FILTER_USE_KEY), '$r') as $name => $code) {
            $seen[$name] = sprintf('(%s===null?null:$e->shown(%s))', $code, self::text((string) $name));
        }
        $this->paths = $paths(null);
        $this->inline = $watchers === null ? [] : ($isTelling ? $this->found() : $this->inline($known));
        $known = [...$known, ...$this->inline];
        $names = fn (string $in): array => [...$known, ...$noted(array_filter($own, fn (string|int $name): bool => $plain[$name], ARRAY_FILTER_USE_KEY), $in)];
        $this->isQuiet = $rule->waiting === [] && $rule->repeat === Repeat::Each;
        $this->light = new Compiler($known, $this->paths);
        $this->noted = new Compiler([...$names('$r'), ...$seen], $paths('$r'));
        $this->notedPaths = $paths('$r');
        $this->fullPaths = $paths('$z->values');
        $this->full = $isTelling ? new Compiler($names('$z->values'), $this->fullPaths) : $this->light;
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

    private function find(string $name): string
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
     * Whether a rule can be compiled: not where every row is read and something may end it on the way, and not more rows
     * than a way through them can be told in one number.
     */
    public static function can(Rule $rule): bool
    {
        if (count($rule->rows) * log(self::base($rule), 2) >= 62) {
            return false;
        }

        return ! $rule->everyRow || (! self::mayEnd($rule) && $rule->repeat !== Repeat::BecomesTrue);
    }

    private static function mayEnd(Rule $rule): bool
    {
        return array_filter($rule->lookUps, fn (LookUp $l): bool => $l->mayEndRule()) !== [];
    }

    /** What the source depends on, as a short text: the same text, the same source. */
    public static function key(Rule $rule, string $type): string
    {
        $formula = fn (?Formula $f): ?string => $f?->source;
        $rows = [];
        foreach ($rule->rows as $row) {
            $rows[] = [array_map(fn ($t): string => $t->source, $row->if), array_map($formula, $row->then)];
        }

        return hash('xxh128', serialize([$type, $rule->key, $rule->repeat, $formula($rule->onlyIf), array_map(fn (LookUp $l): array => [$l->name, $l->type?->key, $l->where?->source, array_map(fn (Node $n): array => [$n->from, $n->to], $l->criteria->nodes())], $rule->lookUps), $rule->needed, $rule->everyRow, array_map($formula, $rule->checks), $rule->immediate, $rows]));
    }

    /**
     * As {@see key}, of what a source takes from the type and its guards, and from the types that it refers to.
     *
     * @param  array<string, RecordType>  $types
     * @param  list<string>  $limited
     */
    public static function typeKey(RecordType $type, array $types, array $limited): string
    {
        $others = array_map(fn (RecordType $t): array => array_map(fn (Field $f): string => $f->behavesAs()->value.' '.$f->to, $t->fields), $types);

        $fields = array_map(fn (Field $f): array => [$f->key, $f->type, $f->computed, $f->isPlain, $f->decimals, $f->min, $f->max, $f->pattern, array_map(fn (Option $o): bool => $o->active, $f->options)], $type->fields);

        return hash('xxh128', serialize([$type->key, $fields, $limited, $others]));
    }

    /**
     * @param  array<string, RecordType>  $types
     * @param  list<string>  $limited  fields whose choices guards limit
     */
    public static function source(Rule $rule, RecordType $type, array $types, array $limited): string
    {
        return (new self($rule, $type, $types, $limited))->look();
    }

    /**
     * The same in full.
     *
     * @param  array<string, RecordType>  $types
     * @param  list<string>  $limited
     */
    public static function tellingSource(Rule $rule, RecordType $type, array $types, array $limited): string
    {
        return (new self($rule, $type, $types, $limited, true))->look();
    }

    /**
     * The look as it stands among those of other rules: in a block, with the record's values in $now; in $path stands
     * the way that it took.
     *
     * @param  array<string, RecordType>  $types
     * @param  list<string>  $limited  fields whose choices guards limit
     * @param  array<string, string>  $still  fields that nothing changes meanwhile, each in a variable
     * @param  SameCode  $same  of all these rules
     * @param  array<string, int>  $ends  bits of derived fields that nothing else follows
     */
    public static function body(Rule $rule, RecordType $type, array $types, array $limited, bool $isTelling, Watchers $watchers, int $place, array $still, SameCode $same, array $ends): string
    {
        return (new self($rule, $type, $types, $limited, $isTelling, $watchers, $place, $still, $same, $ends))->rows();
    }

    /**
     * What a look-up asks of a store, and of each candidate.
     *
     * @param  array<string, RecordType>  $types
     * @return string the source of a map, by look-up: a closure (EventScope $e, Scope $s, Warnings $w): list of what its criteria are computed from, {@see Criteria::conditions}, or null; one of the same that gives the conditions themselves, or null; a closure (Record $o, EventScope $e, Scope $s, Warnings $w): bool, or null; and the second once more, which notes in the Reads $z what it read
     */
    public static function finds(Rule $rule, RecordType $type, array $types): string
    {
        $of = new self($rule, $type, $types, []);
        $sources = [];
        foreach ($rule->lookUps as $name => $lookUp) {
            if ($lookUp->type === null) {
                continue;
            }
            $conditions = $lookUp->criteria->source($of->paths);
            $nodes = $conditions === null ? array_map(fn (Node $n): string => $of->light->expression($n), $lookUp->criteria->nodes()) : [];
            // what reads a look-up may come back to this one
            $isOwn = $lookUp->where !== null && array_intersect(Walk::names($lookUp->where->tree), array_map(strval(...), array_keys($rule->lookUps))) === [];
            $holds = ! $isOwn || $lookUp->where === null ? null : Paths::candidate($lookUp->where, $lookUp->type, $type, $types, $of->record);
            $noted = $conditions === null ? null : $lookUp->criteria->source($of->fullPaths);
            $sources[] = sprintf(
                '%s=>[%s,%s,%s,%s]', self::text((string) $name), $nodes === [] ? 'null' : 'static fn($e,$s,$w)=>['.implode(',', $nodes).']', $conditions === null ? 'null' : 'static fn($e,$s,$w)=>'.$conditions,
                $holds === null ? 'null' : 'static fn($o,$e,$s,$w)=>'.$holds, $noted === null ? 'null' : 'static fn($e,$s,$w,$z)=>'.$noted,
            );
        }

        return '['.implode(',', $sources).']';
    }

    /**
     * Formulas that wait until the record has settled.
     *
     * @param  array<string, RecordType>  $types
     * @return string the source of a map, by formula: a closure (EventScope $e, Scope $s, Warnings $w): mixed, and one (EventScope $e, Scope $s, Warnings $w, Reads $z): mixed that notes what it reads
     */
    public static function waiting(Rule $rule, RecordType $type, array $types): string
    {
        [$of, $noted] = [new self($rule, $type, $types, []), new self($rule, $type, $types, [], true)];
        $sources = [];
        foreach ($rule->waiting as $column => $change) {
            foreach ([...array_map(fn (Row $row): ?Formula => $row->then[$column], $rule->rows), ...($change instanceof ActionChange ? $change->formulas() : [])] as $formula) {
                $formula === null || $sources[$formula->source] = sprintf('%s=>[static fn($e,$s,$w)=>%s,static fn($e,$s,$w,$z)=>%s]', self::text($formula->source), $of->light->expression($formula->tree), $noted->full->expression($formula->tree));
            }
        }

        return '['.implode(',', $sources).']';
    }

    /**
     * How many ways a row can end: it was not come to (0); one of its n checks fails (1 to n); it fits (n + 1); every check
     * holds, and it is not hit all the same, since a look-up that it needs ends the rule or it held before the event
     * (n + 2); a look-up ends it at a check (n + 3 and on). The ways of all rows are the digits of one number, the first
     * row's the last of them.
     */
    public static function base(Rule $rule): int
    {
        return 2 * count($rule->checks) + 3;
    }

    /** Whether a row fitted, on the way that a look took. */
    public static function fits(Rule $rule, int $path): bool
    {
        [$base, $fits] = [self::base($rule), count($rule->checks) + 1];
        for (; $path > 0; $path = intdiv($path, $base)) {
            if ($path % $base === $fits) {
                return true;
            }
        }

        return false;
    }

    /**
     * The way that a look took, from the number that it gave.
     *
     * @return array{list<int>, array<int, array<int, int>>} the rows that fitted; and by row and column, 1 where a cell held, 2 where it failed
     */
    public static function path(Rule $rule, int $path): array
    {
        self::$told ??= new \WeakMap;
        self::$told[$rule] ??= [];

        return self::$told[$rule][$path] ??= self::ends($rule, $path);
    }

    /** @return array{list<int>, array<int, array<int, int>>} */
    private static function ends(Rule $rule, int $path): array
    {
        [$base, $checks] = [self::base($rule), count($rule->checks)];
        [$rows, $cells] = [[], []];
        for ($row = 0; $path > 0; $path = intdiv($path, $base), $row++) {
            $end = $path % $base;
            foreach ($rule->rows[$row]->if as $column => $tests) {
                if ($end === $column + 1) {
                    $cells[$row][$column] = 2;
                    break;
                }
                if ($end === $checks + 3 + $column) {
                    break;
                }
                $tests->alwaysHolds() || $cells[$row][$column] = 1;
            }
            if ($end === $checks + 1) {
                $rows[] = $row;
            }
        }

        return [$rows, $cells];
    }

    private function look(): string
    {
        return ($this->isTelling ? sprintf('static function($e,$s,$k,$z,&$t,&$changes){$path=0;$z->take();$w=new \%s;', Warnings::class) : 'static function($e,$s,$w,$k,&$changes){$path=0;').$this->rows().'return $path;}';
    }

    /** The look without its frame; in $path stands the way that it took. */
    private function rows(): string
    {
        $body = implode('', array_map(fn (int $number): string => sprintf('$l%d=$k;', $number), array_keys(array_values($this->inline)))).$this->condition();
        $this->come = [];
        foreach ($this->rule->checks as $column => $check) {
            $body .= match (true) {
                $this->isLate($check) => $this->comesFirst($column) ? '' : sprintf('$h%d=false;', $column),
                $this->isStanding($check) => '',
                default => sprintf('$c%d=%s;', $column, $this->wordOf($column) ?? $this->formula($check)),
            };
        }
        $after = '';
        foreach ($this->rule->rows as $number => $row) {
            $body .= $this->rule->everyRow ? sprintf('$f%d=false;', $number) : '';
            $body .= 'do{';
            foreach ($row->if as $column => $tests) {
                $body .= $tests->alwaysHolds() ? '' : $this->cell($number, $column, $tests);
            }
            $body .= $this->fit($number);
            if ($this->rule->everyRow) {
                // every row is read before the first has changed something
                $body .= sprintf('$f%d=true;', $number);
                $after .= sprintf('if($f%d){%s}', $number, $this->changes($number));
            } else {
                $body .= $this->changes($number).$this->over(2);
            }
            $body .= '}while(false);';
        }
        if (! self::mayEnd($this->rule)) {
            return $body.$after;
        }

        return sprintf('try{%s%s}catch(\%s $y){%s$k->skipped($y);%s}', $body, $after, SkipRule::class, $this->watchers === null || ! $this->isQuiet ? '' : sprintf('if(!$l){$l=true;$k->looks(%d);}', $this->place), $this->isTelling ? '$t[\'skipped\']=$y->getMessage();' : '');
    }

    /** The look is over; among other rules it stands in a block of its own. */
    private function over(int $depth): string
    {
        return $this->watchers === null ? 'return $path;' : ($depth === 1 ? 'break;' : "break $depth;");
    }

    private function condition(): string
    {
        $onlyIf = $this->rule->onlyIf;
        if ($onlyIf === null) {
            return '';
        }
        if ($this->isTelling) {
            return $this->evaluated('$v', $onlyIf, '$t[\'only_if\']', sprintf('\'formula\'=>%s,\'result\'=>%s', self::text($onlyIf->source), $this->plain('$v', $onlyIf))).'if($v!==true)'.$this->over(1);
        }

        return sprintf('if(!(%s))%s', $this->light->condition($onlyIf->tree), $this->over(1));
    }

    /**
     * A formula's value in a variable; in full also what is told of it, and what it read.
     *
     * @param  string  $into  where that goes
     * @param  string  $told  entries of it, as PHP
     * @param  Field|null  $for  the field that the value is for, which takes it as it is stored
     */
    private function evaluated(string $variable, Formula $formula, string $into, string $told, ?Field $for = null): string
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
    private function stored(Formula $formula, Field $for): ?string
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
    private static function usesScope(string $code): bool
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
    private function warnings(string $code): array
    {
        return preg_match('~\$w\b~', $code) === 1 ? [sprintf('if($w->list!==[])$w=new \%s;', Warnings::class), '$w->list'] : ['', '[]'];
    }

    /**
     * Where an entry of a list that is told goes.
     *
     * @param  'checks'|'rows'|'changes'  $list
     */
    private function into(string $list): string
    {
        return $this->watchers === null ? sprintf('$t[\'%s\'][]', $list) : ['checks' => '$tc', 'rows' => '$tr', 'changes' => '$tg'][$list].'[]';
    }

    /** What stands for the end of a row in $path. */
    private function end(int $row, int $end): int
    {
        return $end * self::base($this->rule) ** $row;
    }

    /** Whether a check is read for sure where a row first asks for it, since it begins that row. */
    private function comesFirst(int $column): bool
    {
        foreach ($this->rule->rows as $row) {
            $asked = array_keys(array_filter($row->if, fn (UnaryTests $tests): bool => ! $tests->alwaysHolds()));
            if (in_array($column, $asked, true)) {
                return $asked[0] === $column;
            }
        }

        return false;
    }

    /** What a check comes to as a text or null, where nothing is asked of it but which text it equals, or whether it is null. */
    private function wordOf(int $column): ?string
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
    private function isStanding(Formula $check): bool
    {
        return ! $this->isTelling && $check->tree instanceof Name && str_starts_with($this->own[$check->tree->name] ?? '', '$') && $this->type->fields[$check->tree->name]->isPlain;
    }

    /** A check cell: the row ends here unless it holds. */
    private function cell(int $row, int $column, UnaryTests $tests): string
    {
        $check = $this->rule->checks[$column];
        $code = '';
        if ($this->isLate($check) && ! isset($this->come[$column])) {
            $isFirst = $this->comesFirst($column);
            $isFirst && $this->come[$column] = true;
            $code = sprintf($isFirst ? '%2$s' : 'if(!$h%1$d){$h%1$d=true;%2$s}', $column, ! $this->isTelling && $this->wordOf($column) !== null ? sprintf('$c%d=%s;', $column, $this->wordOf($column)) : $this->evaluated('$c'.$column, $check, $this->into('checks'), sprintf('\'column\'=>%d,\'of\'=>%s,\'value\'=>%s', $column, self::text($check->source), $this->plain('$c'.$column, $check))));
        }
        $compiler = $this->full;
        $test = $compiler->test($tests->tests, $this->isStanding($check) ? $this->formula($check) : '$c'.$column, $compiler->isTextOrNull($check->tree) || (! $this->isTelling && $this->wordOf($column) !== null));
        [$before, $failed] = ['', ''];
        if ($this->isTelling) {
            [$before, $warnings] = $this->warnings($test);
            $failed = sprintf('%s=[\'row\'=>%d,\'fits\'=>false,\'failed\'=>[\'column\'=>%d,\'test\'=>%s,\'warnings\'=>%s]];', $this->into('rows'), $row, $column, self::text($tests->source), $warnings);
            if (self::usesScope($test)) {
                // what a test reads is not told, but which rows of tables it hits is
                [$before, $test] = [$before.sprintf('$v=%s;$k->read($w);', $test), '$v'];
            }
        }
        $end = sprintf('{%s$path+=%d;break;}', $failed, $this->end($row, $column + 1));
        if (! self::mayEnd($this->rule)) {
            return $code.$before.sprintf('if(!(%s))%s', $test, $end);
        }

        // what ends the rule here is told as such
        return sprintf('$path+=%1$d;%2$s$v=%3$s;$path-=%1$d;if(!$v)%4$s', $this->end($row, count($this->rule->checks) + 3 + $column), $code.$before, $test, $end);
    }

    /** Every check of a row holds. */
    private function fit(int $row): string
    {
        $checks = count($this->rule->checks);
        $code = $this->isTelling ? sprintf('%s=[\'row\'=>%d,\'fits\'=>true,\'failed\'=>null];', $this->into('rows'), $row) : '';
        if ($this->rule->repeat === Repeat::BecomesTrue) {
            $code .= sprintf('if($k->held(%d)){%s$path+=%d;%s}', $row, $this->isTelling ? sprintf('$t[\'skipped\']=%s;', self::text(RuleLook::HELD)) : '', $this->end($row, $checks + 2), $this->over(2));
        }
        $needed = implode('', array_map(fn (string $name): string => isset($this->inline[$name]) ? ($this->isTelling ? $this->find($name) : $this->inline[$name].';') : sprintf('$s->get(%s);', self::text($name)), $this->rule->needed[$row] ?? []));

        return $code.($needed === '' ? sprintf('$path+=%d;', $this->end($row, $checks + 1)) : sprintf('$path+=%d;%s%s$path-=%d;', $this->end($row, $checks + 2), $needed, $this->isTelling ? '$z->take();' : '', $this->end($row, 1))).($this->watchers === null ? '' : '$hit=true;');
    }

    private function changes(int $row): string
    {
        $code = $this->rule->repeat === Repeat::Once ? '$k->once();' : '';
        foreach ($this->rule->immediate as $column => $change) {
            $cell = $this->rule->rows[$row]->then[$column];
            if ($cell !== null) {
                $code .= $this->evaluated('$x', $cell, '$u', '', $this->type->fields[$change->field] ?? null).$this->write($row, $column, $change);
            }
        }

        return $code;
    }

    /** Whether a check is read only when a row comes to it: what is told, what leaves a mark, and what may end the rule. */
    private function isLate(Formula $check): bool
    {
        return $this->isTelling || $this->calls($check);
    }

    private static function text(string $text): string
    {
        return var_export($text, true);
    }

    /** The value of a formula in a variable, as plain data. */
    private function plain(string $variable, ?Formula $formula): string
    {
        $compiler = $this->light;
        if ($formula !== null && ($compiler->isTextOrNull($formula->tree) || $compiler->isSure($formula->tree))) {
            return $variable;
        }

        return sprintf('(is_scalar(%1$s)?%1$s:\%2$s::json(%1$s))', $variable, Values::class);
    }

    /** The change of a field by the value in $x; in full, with what is told of it, beside what is in $u. */
    private function write(int $row, int $column, FieldChange $change): string
    {
        $slow = $this->slow($row, $column);
        $field = $this->type->fields[$change->field] ?? null;
        if ($field === null || $field->key === 'state' || in_array($field->key, $this->limited, true) || $field->type !== $field->behavesAs()) {
            return $slow;
        }
        if ($field->type === FieldType::Tags && ($change instanceof AddChange || $change instanceof RemoveChange)) {
            return $this->tag($field, $change, $row, $column);
        }
        if ($change instanceof AffixChange) {
            return $this->affix($field, $change, $row, $column);
        }
        $fits = $change instanceof SetChange ? Fitting::condition($field) : null;
        $cell = $this->rule->rows[$row]->then[$column];
        $fits = $field->type === FieldType::Duration && $cell !== null && $this->stored($cell, $field) !== null ? 'is_string($y=$x)' : $fits;
        if ($fits === null || ! $change instanceof SetChange || ($field->type === FieldType::Duration && in_array($change->when, [When::Higher, When::Lower], true))) {
            return $slow;
        }
        $same = match ($field->type) {
            FieldType::Number, FieldType::Percent => 'is_int($b)', FieldType::YesNo => 'is_bool($b)',
            // dates of four-digit years stand in order as they are written
            FieldType::Date => '(is_string($b)&&strlen($b)===10)', default => 'is_string($b)',
        };
        [$becomes, $kept] = match ($change->when) {
            When::Always => ['$b!==$y', 'already so'], When::Empty => ['$b===null', 'has a value: kept'],
            When::Higher, When::Lower => ['$b!==$y&&($b===null||'.$this->isBeyond($field, $change->when).')', $change->when === When::Higher ? 'not higher: kept' : 'not lower: kept'],
        };
        $tell = fn (string $after, bool $isMade, string $why): string => $this->tells($row, $column, $after, $isMade, $why);
        $set = sprintf('if(%s){%s%s}%s', $becomes, $this->put($field), $tell('$y', true, ''), $this->isTelling ? 'else{'.$tell('$b', false, $kept).'}' : '');
        $nothing = $change->when === When::Always
            ? sprintf('if($b===null){%s}elseif(is_object($b)){%s}else{$y=null;%s%s}', $tell('null', false, 'already so'), $slow, $this->put($field), $tell('null', true, ''))
            : sprintf('if(is_object($b)){%s}else{%s}', $slow, $tell('$b', false, 'no value'));

        return sprintf('$b=%s[%s]??null;if($x===null){%s}elseif(%s&&($b===null||%s)){%s}else{%s}', $this->values, self::text($field->key), $change->when !== When::Always && ! $this->isTelling ? '' : $nothing, $fits, $same, $set, $slow);
    }

    /** A change that is left to the writer. */
    private function slow(int $row, int $column): string
    {
        // among other rules, the settling is told only now which of them is looking
        $looks = $this->watchers === null || ! $this->isQuiet ? '' : sprintf('if(!$l){$l=true;$k->looks(%d);}', $this->place);

        return $looks.($this->isTelling ? $this->into('changes').'=$k->told(' : '$k->cell(').sprintf('%d,%d,$x)%s;', $row, $column, $this->isTelling ? '+$u' : '').($this->watchers === null ? '' : '$g|=1;$m=count($changes);');
    }

    /** What is told of a change whose field held what is in $b. */
    private function tells(int $row, int $column, string $after, bool $isMade, string $why): string
    {
        $change = $this->rule->immediate[$column];

        return ! $this->isTelling ? '' : sprintf(
            '%s=[\'row\'=>%d,\'column\'=>%d,\'kind\'=>%s,\'field\'=>%s,\'formula\'=>%s,\'cell\'=>%s,\'before\'=>$b,\'after\'=>%s,\'made\'=>%s,\'why\'=>%s,\'problem\'=>null]+$u;',
            $this->into('changes'), $row, $column, self::text($change->kind()), self::text($change->field), self::text($this->rule->rows[$row]->then[$column]->source ?? ''), $this->plain('$x', $this->rule->rows[$row]->then[$column]), $after, $isMade ? 'true' : 'false', self::text($why),
        );
    }

    /** The field becomes what is in $y; before it was what is in $b. */
    private function put(Field $field): string
    {
        return sprintf('$e->put(%1$s,$y);$changes[]=[\'field\'=>%1$s,\'before\'=>$b,\'after\'=>$y,\'rule\'=>%2$s];%3$s', self::text($field->key), self::text($this->rule->key), $this->watchers === null ? '' : '$m++;'.$this->watchers->woken($field->key, $this->place, $this->ends));
    }

    /** A text joins another; on a record that was there before, what it replaces has to be known. */
    private function affix(Field $field, AffixChange $change, int $row, int $column): string
    {
        $slow = $this->slow($row, $column);
        if (! in_array($field->type, [FieldType::Text, FieldType::LongText], true) || $field->pattern !== null) {
            return $slow;
        }

        return sprintf(
            '$b=%s[%s]??null;if($x===null){%s}elseif($k->isMade()&&is_string($x)&&$x!==\'\'&&($b===null||is_string($b))&&!isset($x[100])&&!isset($b[200])&&preg_match(\'~^[ -\x7e]+$~D\',$y=%s)===1){if($b!==null&&%s($b,$x)){%s}else{%s%s}}else{%s}',
            $this->values, self::text($field->key), $this->tells($row, $column, '$b', false, 'no value'), $change->isPrefix ? '$x.$b' : '$b.$x', $change->isPrefix ? 'str_starts_with' : 'str_ends_with',
            $this->tells($row, $column, '$b', false, 'stands there already'), $this->put($field), $this->tells($row, $column, '$y', true, ''), $slow,
        );
    }

    /** A tag joins the list, or leaves it. */
    private function tag(Field $field, FieldChange $change, int $row, int $column): string
    {
        $cell = $this->rule->rows[$row]->then[$column]?->tree;
        $slow = $this->slow($row, $column);
        $tell = fn (string $after, bool $isMade, string $why): string => $this->tells($row, $column, $after, $isMade, $why);
        $begin = sprintf('$b=%s[%s]??null;if($x===null){%s}else', $this->values, self::text($field->key), $tell('$b', false, 'no value'));
        if ($change instanceof RemoveChange) {
            return $begin.sprintf('if(is_string($x)&&$x!==\'\'&&($b===null||(is_array($b)&&!in_array($x,$b,true)))){%s}else{%s}', $tell('$b', false, 'not in it'), $slow);
        }
        $isTag = $cell instanceof Literal && is_string($cell->value) && preg_match('~^[a-z0-9]([a-z0-9-]*[a-z0-9])?$~D', $cell->value) === 1 && strlen($cell->value) <= 60
            ? 'true'
            : '!isset($x[60])&&preg_match(\'~^[a-zA-Z0-9]([a-zA-Z0-9-]*[a-zA-Z0-9])?$~D\',$x)===1';

        return $begin.sprintf(
            '{$y=$b??[];if(is_string($x)&&is_array($y)&&!isset($y[%d])&&(in_array($x,$y,true)||(%s))){if(in_array($x,$y,true)){%s}else{$y[]=$x;%s%s}}else{%s}}',
            TagsKind::MAX_TAGS - 1, $isTag, $tell('$b', false, 'already in it'), $this->put($field), $tell('$y', true, ''), $slow,
        );
    }

    /** Whether $x lies beyond $b, for what is set only when it is higher, or lower. */
    private function isBeyond(Field $field, When $when): string
    {
        $sign = $when === When::Higher ? '>' : '<';
        if (! $field->type->hasOrder() && $field->type !== FieldType::Choice) {
            // what has no order is never higher
            return 'false';
        }
        $all = '['.implode(',', array_map(fn (string|int $key, int $place): string => var_export((string) $key, true).'=>'.$place, array_keys($field->options), array_keys(array_keys($field->options)))).']';

        return $field->type === FieldType::Choice ? sprintf('(%1$s[$y]??0)%2$s(%1$s[$b]??0)', $all, $sign) : '$y'.$sign.'$b';
    }

    private function formula(Formula $formula): string
    {
        return $this->full->expression($formula->tree);
    }

    /** Whether it calls something that is not built in, which may leave a mark: a table; or reads a look-up, which may end the rule. */
    private function calls(Formula $formula): bool
    {
        foreach (Walk::all($formula->tree) as $node) {
            if (($node instanceof Call && (! $node->function instanceof Name || Functions::find($node->function->name) === null)) || ($node instanceof Name && isset($this->rule->lookUps[$node->name]))) {
                return true;
            }
        }

        return false;
    }
}
