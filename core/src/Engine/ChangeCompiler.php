<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

use Sorvel\Core\Feel\Node\Literal;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\FieldType;
use Sorvel\Core\Model\Kind\TagsKind;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Rule\AddChange;
use Sorvel\Core\Rule\AffixChange;
use Sorvel\Core\Rule\FieldChange;
use Sorvel\Core\Rule\RemoveChange;
use Sorvel\Core\Rule\Rule;
use Sorvel\Core\Rule\SetChange;
use Sorvel\Core\Rule\When;

/** What a rule changes on its own record, as PHP; where a value may not fit, or takes more to know, it is left to the writer. */
final class ChangeCompiler
{
    /**
     * @param  list<string>  $limited  fields whose choices guards limit
     * @param  Watchers|null  $watchers  for a look among those of other rules
     * @param  bool  $isQuiet  whether the settling need not know that the rule looks, unless it leaves a change to it
     * @param  array<string, int>  $ends  bits of derived fields that nothing else follows
     */
    public function __construct(private readonly Rule $rule, private readonly RecordType $type, private readonly RuleReader $reader, private readonly array $limited, private readonly ?Watchers $watchers, private readonly int $place, private readonly bool $isQuiet, private readonly array $ends)
    {
    }

    /** The change of a field by the value in $x; in full, with what is told of it, beside what is in $u. */
    public function write(int $row, int $column, FieldChange $change): string
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
        $fits = $field->type === FieldType::Duration && $cell !== null && $this->reader->stored($cell, $field) !== null ? 'is_string($y=$x)' : $fits;
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
        $set = sprintf('if(%s){%s%s}%s', $becomes, $this->put($field), $tell('$y', true, ''), $this->reader->isTelling ? 'else{'.$tell('$b', false, $kept).'}' : '');
        $nothing = $change->when === When::Always
            ? sprintf('if($b===null){%s}elseif(is_object($b)){%s}else{$y=null;%s%s}', $tell('null', false, 'already so'), $slow, $this->put($field), $tell('null', true, ''))
            : sprintf('if(is_object($b)){%s}else{%s}', $slow, $tell('$b', false, 'no value'));

        return sprintf('$b=%s[%s]??null;if($x===null){%s}elseif(%s&&($b===null||%s)){%s}else{%s}', $this->reader->values, RuleReader::text($field->key), $change->when !== When::Always && ! $this->reader->isTelling ? '' : $nothing, $fits, $same, $set, $slow);
    }

    /** A change that is left to the writer. */
    private function slow(int $row, int $column): string
    {
        // among other rules, the settling is told only now which of them is looking
        $looks = $this->watchers === null || ! $this->isQuiet ? '' : sprintf('if(!$l){$l=true;$k->looks(%d);}', $this->place);

        return $looks.($this->reader->isTelling ? $this->reader->into('changes').'=$k->told(' : '$k->cell(').sprintf('%d,%d,$x)%s;', $row, $column, $this->reader->isTelling ? '+$u' : '').($this->watchers === null ? '' : '$g|=1;$m=count($changes);');
    }

    /** What is told of a change whose field held what is in $b. */
    private function tells(int $row, int $column, string $after, bool $isMade, string $why): string
    {
        $change = $this->rule->immediate[$column];

        return ! $this->reader->isTelling ? '' : sprintf(
            '%s=[\'row\'=>%d,\'column\'=>%d,\'kind\'=>%s,\'field\'=>%s,\'formula\'=>%s,\'cell\'=>%s,\'before\'=>$b,\'after\'=>%s,\'made\'=>%s,\'why\'=>%s,\'problem\'=>null]+$u;',
            $this->reader->into('changes'), $row, $column, RuleReader::text($change->kind()), RuleReader::text($change->field), RuleReader::text($this->rule->rows[$row]->then[$column]->source ?? ''), $this->reader->plain('$x', $this->rule->rows[$row]->then[$column]), $after, $isMade ? 'true' : 'false', RuleReader::text($why),
        );
    }

    /** The field becomes what is in $y; before it was what is in $b. */
    private function put(Field $field): string
    {
        return sprintf('$e->put(%1$s,$y);$changes[]=[\'field\'=>%1$s,\'before\'=>$b,\'after\'=>$y,\'rule\'=>%2$s];%3$s', RuleReader::text($field->key), RuleReader::text($this->rule->key), $this->watchers === null ? '' : '$m++;'.$this->watchers->woken($field->key, $this->place, $this->ends));
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
            $this->reader->values, RuleReader::text($field->key), $this->tells($row, $column, '$b', false, 'no value'), $change->isPrefix ? '$x.$b' : '$b.$x', $change->isPrefix ? 'str_starts_with' : 'str_ends_with',
            $this->tells($row, $column, '$b', false, 'stands there already'), $this->put($field), $this->tells($row, $column, '$y', true, ''), $slow,
        );
    }

    /** A tag joins the list, or leaves it. */
    private function tag(Field $field, FieldChange $change, int $row, int $column): string
    {
        $cell = $this->rule->rows[$row]->then[$column]?->tree;
        $slow = $this->slow($row, $column);
        $tell = fn (string $after, bool $isMade, string $why): string => $this->tells($row, $column, $after, $isMade, $why);
        $begin = sprintf('$b=%s[%s]??null;if($x===null){%s}else', $this->reader->values, RuleReader::text($field->key), $tell('$b', false, 'no value'));
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
}
