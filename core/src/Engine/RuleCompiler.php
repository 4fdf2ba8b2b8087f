<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Feel\Node;
use Sorvel\Core\Feel\UnaryTests;
use Sorvel\Core\Feel\Warnings;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\Option;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\State;
use Sorvel\Core\Rule\ActionChange;
use Sorvel\Core\Rule\ChangeColumn;
use Sorvel\Core\Rule\LookUp;
use Sorvel\Core\Rule\Repeat;
use Sorvel\Core\Rule\Rule;

/**
 * One look of a rule at a record of one type, as PHP: its condition, its rows and its changes of the record itself. What
 * is common is written out; everything else goes to the settling, as when a rule is walked.
 *
 * At outcome level the closure is (EventScope $e, Scope $s, Warnings $w, Settling $k, list &$changes): int, and in full
 * (EventScope $e, Scope $s, Settling $k, Reads $z, array &$t, list &$changes): int, which also tells in $t what it read. The number
 * tells which way it took through the rows, {@see Ways}.
 */
final class RuleCompiler
{
    private readonly RuleReader $reader;

    private readonly ChangeCompiler $writer;

    /** @var array<int, true> columns that have been read for sure */
    private array $come = [];

    /** Whether the settling need not know that it looks, unless it leaves a change to it. */
    private readonly bool $isQuiet;

    /**
     * @param  array<string, RecordType>  $types
     * @param  list<string>  $limited  fields whose choices guards limit
     * @param  Watchers|null  $watchers  for a look among those of other rules
     * @param  array<string, string>  $still  fields that nothing changes meanwhile, each in a variable
     * @param  SameCode|null  $same  what all these rules tell alike
     * @param  array<string, int>  $ends  bits of derived fields that nothing else follows
     */
    private function __construct(private readonly Rule $rule, private readonly RecordType $type, array $types, array $limited, private readonly bool $isTelling = false, private readonly ?Watchers $watchers = null, private readonly int $place = 0, array $still = [], ?SameCode $same = null, array $ends = [])
    {
        $this->isQuiet = $rule->waiting === [] && $rule->repeat === Repeat::Each;
        $this->reader = new RuleReader($rule, $type, $types, $isTelling, $watchers !== null, $still, $same);
        $this->writer = new ChangeCompiler($rule, $type, $this->reader, $limited, $watchers, $place, $this->isQuiet, $ends);
    }

    /**
     * Whether a rule can be compiled: not where every row is read and something may end it on the way, and not more rows
     * than a way through them can be told in one number.
     */
    public static function can(Rule $rule): bool
    {
        if (count($rule->rows) * log(Ways::base($rule), 2) >= 62) {
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

        return hash('xxh128', serialize([$type, $rule->key, $rule->repeat, $formula($rule->onlyIf), array_map(fn (LookUp $l): array => [$l->name, $l->kind, $formula($l->value), $l->type?->key, $formula($l->where), $l->field, $l->none, $formula($l->use), $l->several, $formula($l->order), array_map(fn (Node $n): array => [$n->from, $n->to], $l->criteria->nodes())], $rule->lookUps), array_map(fn (ChangeColumn $c): array => [$c->kind(), $c instanceof ActionChange ? array_map($formula, $c->formulas()) : []], $rule->waiting), $rule->needed, $rule->everyRow, array_map($formula, $rule->checks), $rule->immediate, $rows]));
    }

    /**
     * As {@see key}, of what a source takes from the type and its guards, and from the types that it refers to.
     *
     * @param  array<string, RecordType>  $types
     * @param  list<string>  $limited
     */
    public static function typeKey(RecordType $type, array $types, array $limited): string
    {
        $others = array_map(fn (RecordType $t): array => array_map(fn (Field $f): string => $f->behavesAs()->value.' '.$f->to.' '.$f->decimals, $t->fields), $types);
        $fields = array_map(fn (Field $f): array => [$f->key, $f->type, $f->computed, $f->isPlain, $f->decimals, $f->min, $f->max, $f->pattern, array_map(fn (Option $o): bool => $o->active, $f->options)], $type->fields);
        $states = array_map(fn (State $s): bool => $s->open, $type->states);

        return hash('xxh128', serialize([$type->key, $fields, $states, $limited, $others]));
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

    private function look(): string
    {
        return ($this->isTelling ? sprintf('static function($e,$s,$k,$z,&$t,&$changes){$path=0;$z->take();$w=new \%s;', Warnings::class) : 'static function($e,$s,$w,$k,&$changes){$path=0;').$this->rows().'return $path;}';
    }

    /** The look without its frame; in $path stands the way that it took. */
    private function rows(): string
    {
        $body = implode('', array_map(fn (int $number): string => sprintf('$l%d=$k;', $number), array_keys(array_values($this->reader->inline)))).$this->condition();
        $this->come = [];
        foreach ($this->rule->checks as $column => $check) {
            $body .= match (true) {
                $this->isLate($check) => $this->comesFirst($column) ? '' : sprintf('$h%d=false;', $column),
                $this->reader->isStanding($check) => '',
                default => sprintf('$c%d=%s;', $column, $this->reader->wordOf($column) ?? $this->reader->formula($check)),
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
            return $this->reader->evaluated('$v', $onlyIf, '$t[\'only_if\']', sprintf('\'formula\'=>%s,\'result\'=>%s', RuleReader::text($onlyIf->source), $this->reader->plain('$v', $onlyIf))).'if($v!==true)'.$this->over(1);
        }

        return sprintf('if(!(%s))%s', $this->reader->light->condition($onlyIf->tree), $this->over(1));
    }

    /** What stands for the end of a row in $path. */
    private function end(int $row, int $end): int
    {
        return $end * Ways::base($this->rule) ** $row;
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

    /** A check cell: the row ends here unless it holds. */
    private function cell(int $row, int $column, UnaryTests $tests): string
    {
        $check = $this->rule->checks[$column];
        $code = '';
        if ($this->isLate($check) && ! isset($this->come[$column])) {
            $isFirst = $this->comesFirst($column);
            $isFirst && $this->come[$column] = true;
            $code = sprintf($isFirst ? '%2$s' : 'if(!$h%1$d){$h%1$d=true;%2$s}', $column, ! $this->isTelling && $this->reader->wordOf($column) !== null ? sprintf('$c%d=%s;', $column, $this->reader->wordOf($column)) : $this->reader->evaluated('$c'.$column, $check, $this->reader->into('checks'), sprintf('\'column\'=>%d,\'of\'=>%s,\'value\'=>%s', $column, RuleReader::text($check->source), $this->reader->plain('$c'.$column, $check))));
        }
        $compiler = $this->reader->full;
        $test = $compiler->test($tests->tests, $this->reader->isStanding($check) ? $this->reader->formula($check) : '$c'.$column, $compiler->isTextOrNull($check->tree) || (! $this->isTelling && $this->reader->wordOf($column) !== null));
        [$before, $failed] = ['', ''];
        if ($this->isTelling) {
            [$before, $warnings] = $this->reader->warnings($test);
            $failed = sprintf('%s=[\'row\'=>%d,\'fits\'=>false,\'failed\'=>[\'column\'=>%d,\'test\'=>%s,\'warnings\'=>%s]];', $this->reader->into('rows'), $row, $column, RuleReader::text($tests->source), $warnings);
            if (RuleReader::usesScope($test)) {
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
        $code = $this->isTelling ? sprintf('%s=[\'row\'=>%d,\'fits\'=>true,\'failed\'=>null];', $this->reader->into('rows'), $row) : '';
        if ($this->rule->repeat === Repeat::BecomesTrue) {
            $code .= sprintf('if($k->held(%d)){%s$path+=%d;%s}', $row, $this->isTelling ? sprintf('$t[\'skipped\']=%s;', RuleReader::text(RuleLook::HELD)) : '', $this->end($row, $checks + 2), $this->over(2));
        }
        $needed = implode('', array_map(fn (string $name): string => isset($this->reader->inline[$name]) ? ($this->isTelling ? $this->reader->find($name) : $this->reader->inline[$name].';') : sprintf('$s->get(%s);', RuleReader::text($name)), $this->rule->needed[$row] ?? []));

        return $code.($needed === '' ? sprintf('$path+=%d;', $this->end($row, $checks + 1)) : sprintf('$path+=%d;%s%s$path-=%d;', $this->end($row, $checks + 2), $needed, $this->isTelling ? '$z->take();' : '', $this->end($row, 1))).($this->watchers === null ? '' : '$hit=true;');
    }

    private function changes(int $row): string
    {
        $code = $this->rule->repeat === Repeat::Once ? '$k->once();' : '';
        foreach ($this->rule->immediate as $column => $change) {
            $cell = $this->rule->rows[$row]->then[$column];
            if ($cell !== null) {
                $code .= $this->reader->evaluated('$x', $cell, '$u', '', $this->type->fields[$change->field] ?? null).$this->writer->write($row, $column, $change);
            }
        }

        return $code;
    }

    /** Whether a check is read only when a row comes to it: what is told, what leaves a mark, and what may end the rule. */
    private function isLate(Formula $check): bool
    {
        return $this->isTelling || $this->reader->calls($check);
    }
}
