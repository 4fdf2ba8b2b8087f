<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

use Sorvel\Core\Feel\Warnings;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Rulebook;
use Sorvel\Core\Rule\Repeat;
use Sorvel\Core\Rule\Rule;

/**
 * One pass over all rules of a type as one PHP function: each rule that may be due stands in it with its look, and what
 * a change wakes is known where the change stands. What is not common goes to the settling.
 *
 * The closure is (Settling $k, EventScope $e, list<int> &$d, list<int> &$n, list &$changes, array &$ways, list &$more,
 * array &$since, array &$left, bool $new): array{list<array<string, mixed>>|bool, list<string>}, which gives what was
 * due (in full as it is told, else whether anything was) and the rules that changed something.
 */
final class PassCompiler
{
    private readonly Watchers $watchers;

    private readonly SameCode $same;

    /** @var array<string, string> derived fields that nothing else follows, {@see FrameCompiler::ends} */
    private readonly array $ends;

    /** @var array<string, int> their bits */
    private readonly array $bits;

    /** @param  list<string>  $limited  fields whose choices guards limit */
    private function __construct(private readonly Rulebook $rulebook, private readonly RecordType $type, private readonly array $limited, private readonly bool $isTelling)
    {
        $this->watchers = new Watchers($rulebook, $type);
        $this->same = new SameCode;
        $this->ends = array_slice(FrameCompiler::ends($rulebook, $type), 0, 60);
        $this->bits = array_combine(array_keys($this->ends), array_map(fn (int $at): int => 2 << $at, array_keys(array_keys($this->ends))));
    }

    /** @param  list<string>  $limited  fields whose choices guards limit */
    public static function source(Rulebook $rulebook, RecordType $type, array $limited, bool $isTelling): string
    {
        return (new self($rulebook, $type, $limited, $isTelling))->pass();
    }

    private function pass(): string
    {
        $still = $this->still();
        $words = [];
        foreach ($this->rulebook->rulesOn($this->type->key) as $place => $rule) {
            [$word, $bit] = Watchers::at($place);
            $words[$word] = ($words[$word] ?? '').sprintf("\nif(\$d[%d]&%d){%s}", $word, $bit, RuleCompiler::can($rule) ? $this->rule($place, $rule, $still) : sprintf('$k->walk(%d,$due,$changed);$m=count($changes);', $place));
        }
        $code = '';
        foreach ($words as $word => $rules) {
            $code .= sprintf("\nif(\$d[%d]!==0){%s}", $word, $rules);
        }
        $read = '';
        foreach ($still as $field => $variable) {
            $read .= preg_match('~\\'.$variable.'\b~', $code) === 1 ? sprintf('%s=$now[%s]??null;', $variable, var_export((string) $field, true)) : '';
        }

        return sprintf(
            'static function($k,$e,&$d,&$n,&$changes,&$ways,&$more,&$since,&$left,$new){$now=&$e->values;%s$w=new \%s;$due=%s;$changed=[];$m=count($changes);%s%s return[$due,$changed];}',
            $this->isTelling ? '$z=$k->reads();' : '', Warnings::class, $this->isTelling ? '[]' : 'false', $read, $code,
        );
    }

    /** What follows within the record from what a rule has changed. */
    private function follow(string $body, string $key, int $place): string
    {
        $ends = '';
        foreach ($this->ends as $field => $value) {
            if (preg_match_all('~\$g\|=(\d+)~', $body, $found) > 0 && array_filter($found[1], fn (string $bits): bool => ((int) $bits & $this->bits[$field]) !== 0) !== []) {
                $plain = sprintf('\%s::plain', Record::class);
                $ends .= sprintf('if($g&%1$d){%2$s$b=$now[%3$s]??null;if($is!==$b&&!\%4$s::same($b,$is)){$e->put(%3$s,$is);$changes[]=[\'field\'=>%3$s,\'before\'=>%5$s($b),\'after\'=>%5$s($is),\'rule\'=>null];$m++;%6$s}}', $this->bits[$field], $value, var_export($field, true), Record::class, $plain, $this->watchers->woken($field, $place));
            }
        }
        $all = sprintf('$k->follow(%s,$c,%d%s);$m=count($changes);', $key, $place, preg_match('~\$k->(cell|told)\(~', $body) === 1 ? '' : ',$m');

        return sprintf('if($g&1){%s}%s', $all, $ends === '' ? '' : 'elseif($g!==0){'.$ends.'}');
    }

    /** @return array<string, string> by field that nothing changes during a pass, the variable that holds it */
    private function still(): array
    {
        $course = $this->rulebook->course($this->type->key);
        $moving = array_fill_keys($this->limited, true);
        foreach ($this->rulebook->rulesOn($this->type->key) as $rule) {
            foreach ($rule->immediate as $change) {
                $moving[$change->field] = true;
            }
        }
        foreach ($course->mirrors as $mirror) {
            $moving[$mirror->field] = true;
        }
        $still = [];
        foreach (array_values($this->type->fields) as $number => $field) {
            if (! $field->isComputed() && ! isset($moving[$field->key])) {
                $still[$field->key] = '$q'.$number;
            }
        }

        return $still;
    }

    /** @param  array<string, string>  $still */
    private function rule(int $place, Rule $rule, array $still): string
    {
        $starts = Plan::starts($rule);
        $key = var_export($rule->key, true);
        $body = RuleCompiler::body($rule, $this->type, $this->rulebook->types, $this->limited, $this->isTelling, $this->watchers, $place, $still, $this->same, $this->bits);
        // nothing that is read through a scope, nothing that waits, and of the settling only what may be left to the writer
        $isLight = $rule->waiting === [] && $rule->repeat === Repeat::Each && preg_match('~\$s\b|\$z\b|\$e->get\(|\$k->(?!looks|cell|told|none|skipped)~', $body) !== 1;
        $isLeft = str_contains($body, '$k->looks');
        $isFollowed = str_contains($body, '$g|=');
        $changes = str_contains($body, '$changes');
        $before = ($changes ? '$c=$m;' : '').'$path=0;$hit=false;'.($isFollowed ? '$g=0;' : '').($this->isTelling ? sprintf('$t=[\'rule\'=>%s,\'why\'=>$y];$tc=$tr=$tg=[];%s', $key, str_contains($body, '$tl[]') ? '$tl=[];' : '') : '');
        $lists = $this->isTelling ? 'if($tc!==[])$t[\'checks\']=$tc;if($tr!==[])$t[\'rows\']=$tr;if($tg!==[])$t[\'changes\']=$tg;' : '';
        $ended = sprintf($this->isTelling ? '$k->ended(%d,$path,$hit,%s,%s,$t,count($due));$m=count($changes);' : '$k->ended(%d,$path,$hit,%s,%s);$m=count($changes);', $place, $changes ? '$c' : '$m', $isLight ? '$e' : '$s').(str_contains($body, '$tl[]') ? '$t[\'look_ups\']=$tl;' : '');
        if ($isLight) {
            $end = sprintf('if(isset($ways[%1$d]))$more[]=[%1$d,$path];else $ways[%1$d]=$path;', $place);
            $end .= $this->isTelling ? sprintf('$t[\'look_ups\']='.(str_contains($body, '$tl[]') ? '$tl' : '[]').';$t[\'status\']=$hit?%s:\'looked\';', $changes ? '($m>$c?\'acted\':\'no_effect\')' : '\'no_effect\'') : '';
            $code = $before.($isLeft ? '$l=false;' : '').sprintf('do{%s}while(false);', $body).$lists.($isLeft ? sprintf('if($l){%s}else{%s}', $ended, $end) : $end);
        } else {
            $code = $before.sprintf('$l=true;$s=$k->looks(%d);', $place).sprintf('do{%s}while(false);', $body).$lists.$ended;
        }
        if ($rule->repeat === Repeat::Once) {
            $code = sprintf('if(isset($now[\'once#\'])&&$k->isSpent(%s)){$c=$m;%s}else{%s}', $key, $this->isTelling ? sprintf('$t=[\'rule\'=>%s,\'why\'=>$y,\'skipped\'=>%s,\'status\'=>\'looked\'];', $key, var_export(RuleLook::ACTED, true)) : '', $code);
        }
        $code .= $this->isTelling ? '$due[]=$t;' : '$due=true;';
        if (! $starts['isPlain'] || array_diff_key(array_flip($starts['fields']), $still) !== []) {
            // only what may be asked again has to know
            $code .= ($this->isTelling || ! $starts['isPlain'] ? sprintf('$left[%d]=$now;', $place) : '').($starts['isOfFields'] && ! $this->isTelling ? sprintf('$since[%d]=$m;', $place) : '');
        }
        $code .= $changes ? sprintf('if($m>$c){$changed[]=%s;%s}', $key, $isFollowed ? $this->follow($body, $key, $place) : '') : '';
        if (! $this->isTelling && $starts['isPlain']) {
            return sprintf('if(%s$k->isDue(%d)){%s}', $starts['onCreation'] ? '$new||' : '', $place, $code);
        }
        $why = sprintf('$k->why(%d)', $place);
        if (! $this->isTelling) {
            // what only changes of fields start is asked why only when one has changed
            return sprintf('if(%s%s%s!==null){%s}', $starts['onCreation'] ? '$new||' : '', $starts['isOfFields'] ? sprintf('$k->isDue(%d)&&', $place) : '', $why, $code);
        }

        return sprintf('$y=%s;if($y!==null){%s}', $starts['createdFirst'] ? sprintf('$new?[\'kind\'=>\'created\']:%s', $why) : $why, $code);
    }
}
