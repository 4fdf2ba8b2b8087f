<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

use Sorvel\Core\Feel\Warnings;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Rulebook;
use Sorvel\Core\Rule\Repeat;
use Sorvel\Core\Rule\Rule;

/**
 * One pass over all rules of a type as one PHP function: each rule that may be due stands in it with its look, and what
 * a change wakes is known where the change stands. What is not common goes to the settling.
 *
 * The closure is (Settling $k, EventScope $e, list<int> &$d, list<int> &$n, list &$changes, array &$rules, array &$ways,
 * array &$since, array &$left, bool $new): array{list<array<string, mixed>>|bool, list<string>}, which gives what was
 * due (in full as it is told, else whether anything was) and the rules that changed something.
 */
final class PassCompiler
{
    private readonly Watchers $watchers;

    /** @param  list<string>  $limited  fields whose choices guards limit */
    private function __construct(private readonly Rulebook $rulebook, private readonly RecordType $type, private readonly array $limited, private readonly bool $isTelling)
    {
        $this->watchers = new Watchers($rulebook, $type);
    }

    /** @param  list<string>  $limited  fields whose choices guards limit */
    public static function source(Rulebook $rulebook, RecordType $type, array $limited, bool $isTelling): string
    {
        return (new self($rulebook, $type, $limited, $isTelling))->pass();
    }

    private function pass(): string
    {
        $code = sprintf('static function($k,$e,&$d,&$n,&$changes,&$rules,&$ways,&$since,&$left,$new){$now=&$e->values;%s$w=new \\%s;$due=%s;$changed=[];', $this->isTelling ? '$z=$k->reads();' : '', Warnings::class, $this->isTelling ? '[]' : 'false');
        $words = [];
        foreach ($this->rulebook->rulesOn($this->type->key) as $place => $rule) {
            [$word, $bit] = Watchers::at($place);
            $words[$word] = ($words[$word] ?? '').sprintf("\nif(\$d[%d]&%d){%s}", $word, $bit, RuleCompiler::can($rule) ? $this->rule($place, $rule) : sprintf('$k->walk(%d,$due,$changed);', $place));
        }
        foreach ($words as $word => $rules) {
            $code .= sprintf("\nif(\$d[%d]!==0){%s}", $word, $rules);
        }

        return $code.'return[$due,$changed];}';
    }

    private function rule(int $place, Rule $rule): string
    {
        $plan = Plan::starts($rule);
        $key = var_export($rule->key, true);
        $status = '\\'.RuleStatus::class;
        $body = RuleCompiler::body($rule, $this->type, $this->limited, $this->isTelling, $this->watchers, $place);
        // nothing that is read through a scope, nothing that waits, and of the settling only what may be left to the writer
        $isLight = $rule->lookUps === [] && $rule->waiting === [] && $rule->repeat === Repeat::Each && preg_match('~\$s\b|\$z\b|\$e->get\(|\$k->(?!looks|cell|told|person|team)~', $body) !== 1;
        $isLeft = str_contains($body, '$k->looks');
        $asks = $isLight ? ($isLeft ? '$l=false;' : '') : sprintf('$l=true;$s=$k->looks(%d);', $place);
        $code = sprintf('$c=count($changes);$path=1;%s%s%sdo{%s}while(false);$m=count($changes);', str_contains($body, '$g=true') ? '$g=false;' : '', $this->isTelling ? sprintf('$t=[\'rule\'=>%s,\'why\'=>$y];', $key) : '', $asks, $body);
        $ended = $this->isTelling ? '$k->ended(%d,$path,$c,%s,$t,count($due));' : '$k->ended(%d,$path,$c,%s);';
        if ($isLight) {
            $fits = $rule->everyRow ? implode('||', array_map(fn (int $row): string => '$f'.$row, array_keys($rule->rows))) : sprintf('$path%%%d===0', RuleCompiler::base($rule));
            $end = sprintf('$y=$path>1&&(%1$s)?($m>$c?%2$s::Acted:%2$s::NoEffect):%2$s::Looked;$rules[%3$s]=isset($rules[%3$s])?$rules[%3$s]->and($y):$y;if($path>1)$ways[%3$s][]=$path;', $fits === '' ? 'false' : $fits, $status, $key);
            $end .= $this->isTelling ? '$t[\'look_ups\']=[];$t[\'status\']=$y->value;' : '';
            $code .= $isLeft ? sprintf('if($l){%s}else{%s}', sprintf($ended, $place, '$e'), $end) : $end;
        } else {
            $code .= sprintf($ended, $place, '$s');
        }
        if ($rule->repeat === Repeat::Once) {
            $code = sprintf('if($k->isSpent(%s)){$m=$c=count($changes);%s}else{%s}', $key, $this->isTelling ? sprintf('$t=[\'rule\'=>%s,\'why\'=>$y,\'skipped\'=>%s,\'status\'=>%s::Looked->value];', $key, var_export(RuleLook::ACTED, true), $status) : '', $code);
        }
        $code .= ($this->isTelling ? '$due[]=$t;' : '$due=true;').sprintf('$since[%d]=$m;', $place);
        $code .= $this->isTelling || ! $plan['isPlain'] ? sprintf('$left[%d]=$now;', $place) : '';
        $code .= sprintf('if($m>$c){$changed[]=%s;%s}', $key, str_contains($body, '$g=true') ? sprintf('if($g)$k->follow(%s,$c,%d);', $key, $place) : '');
        if (! $this->isTelling && $plan['isPlain']) {
            return sprintf('if(%s$k->isDue(%d)){%s}', $plan['onCreation'] ? '$new||' : '', $place, $code);
        }
        $why = sprintf('$k->why(%d)', $place);

        return sprintf('$y=%s;if($y!==null){%s}', $plan['createdFirst'] ? sprintf('$new?[\'kind\'=>\'created\']:%s', $why) : $why, $code);
    }
}
