<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

use Sorvel\Core\Feel\Compiler;
use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Feel\Warnings;
use Sorvel\Core\Guard\Effect;
use Sorvel\Core\Mirror\Mode;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\FieldType;
use Sorvel\Core\Model\Kind\DateTimeKind;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Rulebook;
use Sorvel\Core\Tally\Tallies;

/** Mirrors, derived fields, guards and what tallies count of a type as PHP, {@see Frame}. */
final class FrameCompiler
{
    private readonly Paths $paths;

    private readonly Compiler $compiler;

    /** @var array<string, string> by field, what reads it where it is stored */
    private readonly array $own;

    private function __construct(private readonly Rulebook $rulebook, private readonly RecordType $type)
    {
        [$own, $known] = [[], []];
        foreach ($type->fields as $field) {
            $own[$field->key] = sprintf('($e->values[%s]??null)', var_export($field->key, true));
            if (! $field->isPlain) {
                $known[$field->key] = sprintf('$e->seen(%s)', var_export($field->key, true));
            }
        }
        $this->own = $own;
        $this->paths = new Paths($rulebook->types, $type, $type, $own, $own);
        $this->compiler = new Compiler($known, $this->paths);
    }

    /** What the source depends on beside the types. */
    public static function parts(Rulebook $rulebook, RecordType $type): string
    {
        $parts = [];
        foreach ($rulebook->mirrorsOn($type->key) as $mirror) {
            $parts[] = [$mirror->step, $mirror->field, $mirror->from->source, $mirror->mode, $mirror->isPaired];
        }
        foreach ($type->derived as $field) {
            $parts[] = [$field->key, $field->behavesAs(), $field->formula?->source];
        }
        foreach ($rulebook->guardsOn($type->key) as $guard) {
            $parts[] = [$guard->key, $guard->field, $guard->effect, $guard->when?->source, $guard->only?->source];
        }
        foreach ($type->fields as $field) {
            $parts[] = [$field->fixed, $field->active, $field->default?->source, $field->tally?->measure, $field->builtIn];
        }
        $parts[] = [$type->isTicket, $type->firstState(), array_map(fn (Formula $f): string => $f->source, self::tallied($rulebook, $type))];

        return serialize($parts);
    }

    /**
     * Derived fields that nothing else follows.
     *
     * @return array<string, string> by field, PHP that leaves in $is what it is to be
     */
    public static function ends(Rulebook $rulebook, RecordType $type): array
    {
        $course = $rulebook->course($type->key);
        $of = new self($rulebook, $type);
        $ends = [];
        foreach ($type->derived as $field) {
            $isEnd = isset($course->settled[$field->key]) && array_diff_key($course->after($field->key), [$field->key => true]) === [] && $course->limits($field->key) === [];
            $made = $field->formula === null || ! $isEnd ? null : $of->made($field->formula, $field);
            // among rules, names are asked of the scope of whichever looks
            if ($made !== null && preg_match('~\$s\b~', $made[0]) !== 1) {
                $ends[$field->key] = $made[1] === null ? sprintf('$is=%s;', $made[0]) : sprintf('$x=%s;$is=$x===null?null:(%s?$y:$e->leave());', ...$made);
            }
        }

        return $ends;
    }

    /** @return string the source of what a {@see Frame} is made of */
    public static function source(Rulebook $rulebook, RecordType $type): string
    {
        return (new self($rulebook, $type))->frame();
    }

    private function frame(): string
    {
        [$steps, $when, $only] = [[], [], []];
        foreach ($this->rulebook->mirrorsOn($this->type->key) as $mirror) {
            $steps[$mirror->step] = $this->step($mirror->from, $this->type->fields[$mirror->field]);
        }
        foreach ($this->type->derived as $field) {
            $field->formula === null || $steps[$field->key] = $this->step($field->formula, $field);
        }
        foreach ($this->rulebook->guardsOn($this->type->key) as $guard) {
            $when[$guard->key] = $guard->when === null ? null : 'static fn($e,$s,$w)=>'.$this->compiler->condition($guard->when->tree);
            $to = $this->rulebook->types[$this->type->fields[$guard->field]->to ?? ''] ?? null;
            $holds = $guard->only === null || $to === null ? null : Paths::candidate($guard->only, $to, $this->type, $this->rulebook->types, $this->own);
            $only[$guard->key] = $holds === null ? null : 'static fn($o,$e,$s,$w)=>'.$holds;
        }

        return sprintf('[%s,%s,%s,%s,%s]', self::map($steps), self::map($when), self::map($only), $this->begin() ?? 'null', self::map($this->counts()));
    }

    /** @return array<string, string|null> by condition of a tally that counts records of the type */
    private function counts(): array
    {
        $counts = [];
        foreach (self::tallied($this->rulebook, $this->type) as $where) {
            $holds = Paths::candidate($where, $this->type, $this->type, $this->rulebook->types, []);
            $counts[$where->source] = $holds === null || preg_match('~\$[es]\b~', $holds) === 1 ? null : sprintf('static function($o){%sreturn %s;}', str_contains($holds, '$w') ? '$w=new \\'.Warnings::class.';' : '', $holds);
        }

        return $counts;
    }

    /** @return list<Formula> conditions of tallies that count records of a type */
    private static function tallied(Rulebook $rulebook, RecordType $type): array
    {
        $conditions = [];
        foreach ($rulebook->types as $holder) {
            foreach ($holder->fields as $field) {
                if ($field->tally?->of === $type->key && $field->tally->where !== null) {
                    $conditions[] = $field->tally->where;
                }
            }
        }

        return $conditions;
    }

    /** What comes in, held to types and guards, and what follows from it at once; null where that is no common case. */
    private function begin(): ?string
    {
        $follow = $this->follow();
        if ($follow === null) {
            return null;
        }

        return sprintf('static function($event,$before,$e,$viewer){$s=$e;$was=$before===null?[]:$before->values;$v=&$e->values;$v=$was;$w=new \%s;', Warnings::class)
            .sprintf("\nforeach(\$event->values as \$key=>\$x){switch(\$key){%sdefault:return null;}}", $this->incoming())
            ."\n".$this->guarded()
            ."\nif(\$before===null){".$this->asNew().'}'
            .sprintf("\n\$changes=\\%s::differences(\$e->type,\$was,\$v);", Settling::class)
            ."\n".$follow
            .'$e->becomes(new \\'.Record::class.'($event->id,$event->type,$v));return new \\'.Begun::class.'($changes,$sources,$pending,$mirrored);}';
    }

    /** What a person may set of a field at once, by field. */
    private function incoming(): string
    {
        $bound = $this->rulebook->course($this->type->key)->bound;
        $cases = '';
        foreach ($this->type->fields as $field) {
            $fits = $field->fixed || ! $field->active || $field->key === 'state' || isset($bound[$field->key]) || (! $this->type->isTicket && $field->to === $this->type->key) || $field->isComputed() ? null : Fitting::condition($field);
            $isPlain = in_array($field->type, [FieldType::Number, FieldType::Percent, FieldType::Choice, FieldType::YesNo, FieldType::Text, FieldType::LongText, FieldType::Person, FieldType::Team, FieldType::Reference], true);
            $key = var_export($field->key, true);
            $cases .= $fits === null || ! $isPlain ? '' : sprintf('case %1$s:if($x===null||$x===\'\'||$x===[])unset($v[%1$s]);elseif(%2$s)$v[%1$s]=$x;else return null;break;', $key, $fits);
        }

        return $cases;
    }

    /** Where a guard may stand against it, it takes more to know. */
    private function guarded(): string
    {
        $code = '';
        foreach ($this->rulebook->guardsOn($this->type->key) as $guard) {
            $key = var_export($guard->field, true);
            $when = $guard->when === null ? null : $this->compiler->condition($guard->when->tree);
            $field = $this->type->fields[$guard->field];
            if (in_array($guard->effect, [Effect::ReadOnly, Effect::Hidden], true)) {
                $code .= sprintf('if(($v[%1$s]??null)!==($was[%1$s]??null)){%2$s}', $key, $when === null ? 'return null;' : sprintf('$now=$v;if($before!==null)$v=$was;$g=%s;$v=$now;if($g)return null;', $when));
            } elseif ($guard->effect === Effect::Choices) {
                $to = $this->rulebook->types[$field->to ?? ''] ?? null;
                $only = $guard->only === null || $to === null || $field->behavesAs() !== FieldType::Reference ? null : Paths::candidate($guard->only, $to, $this->type, $this->rulebook->types, $this->own);
                $against = $only === null ? 'return null;' : sprintf('$o=$e->met[$v[%1$s]]??$e->meet($v[%1$s],%2$s);if(!(%3$s))return null;', $key, var_export((string) $field->to, true), $only);
                $code .= sprintf('if(isset($v[%s])){%s}', $key, $when === null ? $against : sprintf('if(%s){%s}', $when, $against));
            }
        }

        return $code;
    }

    /** What a new record has of itself. */
    private function asNew(): string
    {
        $code = '';
        if ($this->type->isTicket) {
            $code = sprintf('$v[\'number\']=$event->id;unset($v[\'created_by\']);if($event->by!==null)$v[\'created_by\']=$event->by;$v[\'created_at\']=$v[\'changed_at\']=(new \%s)->fit($event->at,$e->type->fields[\'created_at\'],$viewer,true);', DateTimeKind::class);
            $code .= $this->type->firstState() === null ? '' : sprintf('$v[\'state\']??=%s;', var_export($this->type->firstState(), true));
        }
        foreach ($this->type->begun as $field) {
            foreach (Tallies::begun($field) as $key => $value) {
                $code .= $value === null ? sprintf('unset($v[%s]);', var_export($key, true)) : sprintf('$v[%s]=%s;', var_export($key, true), var_export($value, true));
            }
            if ($field->default !== null) {
                $key = var_export($field->key, true);
                $fits = Fitting::condition($field);
                $code .= sprintf('if(!isset($v[%s])){%s}', $key, $fits === null ? 'return null;' : sprintf('$x=%s;if($x!==null){if(%s)$v[%s]=$y;else return null;}', $this->compiler->expression($field->default->tree), $fits, $key));
            }
        }

        return $code;
    }

    /** The first round of what follows; null when it cannot be written out. */
    private function follow(): ?string
    {
        $course = $this->rulebook->course($this->type->key);
        if ($course->isPaired || count($course->steps) > 60) {
            return null;
        }
        [$past, $code] = ['', '$sources=$mirrored=$pending=[];$p=0;'];
        $places = array_flip(array_map(strval(...), array_keys($course->steps)));
        $set = function (Field $field, string $step, string $mirrored) use ($course, $places): string {
            $again = 0;
            foreach (array_keys($course->after($field->key)) as $other) {
                $again |= $places[$other] < $places[$step] || ($other === $step && ! isset($course->settled[$step])) ? 1 << $places[$other] : 0;
            }
            $key = var_export($field->key, true);
            $plain = fn (string $variable): string => in_array($field->behavesAs(), [FieldType::Number, FieldType::Percent], true) ? sprintf('\%s::plain(%s)', Record::class, $variable) : $variable;

            return sprintf('if($z===null)unset($v[%1$s]);else $v[%1$s]=$z;$changes[]=[\'field\'=>%1$s,\'before\'=>%2$s,\'after\'=>%3$s,\'rule\'=>null];%4$s%5$s', $key, $plain('$b'), $plain('$z'), $mirrored, $again === 0 ? '' : sprintf('$p|=%d;', $again));
        };
        foreach ($course->mirrors as $mirror) {
            $value = $this->value($mirror->from, $this->type->fields[$mirror->field]);
            if ($value === null) {
                return null;
            }
            [$key, $target] = [var_export($mirror->key, true), var_export($mirror->field, true)];
            $past .= $mirror->isBound() ? '' : sprintf('%s$old[%s]=$z;', $value, $key);
            $follows = match (true) {
                $mirror->isBound() => 'true',
                $mirror->mode === Mode::FillEmpty => '$z!==null&&$b===null',
                default => sprintf('!\%s::same($z,$old[%s]??null)', Record::class, $key),
            };
            $code .= sprintf('%s$sources[%s]=$z;$b=$v[%s]??null;if($z!==$b&&%s&&!\%s::same($b,$z)){%s}', $value, $key, $target, $follows, Record::class, $set($this->type->fields[$mirror->field], $mirror->step, sprintf('$mirrored[%s]=true;', $key)));
        }
        foreach ($this->type->derived as $field) {
            $value = $field->formula === null ? null : $this->value($field->formula, $field);
            if ($value === null) {
                return null;
            }
            $code .= sprintf('%s$b=$v[%s]??null;if($z!==$b&&!\%s::same($b,$z)){%s}', $value, var_export($field->key, true), Record::class, $set($field, $field->key, ''));
        }
        $names = var_export(array_map(strval(...), array_keys($course->steps)), true);

        return '$old=[];'.($past === '' ? '' : sprintf('if($before!==null){$now=$v;$v=$was;%s$v=$now;}', $past)).$code.($places === [] ? '' : sprintf('if($p!==0){foreach(%s as $at=>$step)if($p>>$at&1)$pending[$step]=true;}', $names));
    }

    /** What a field is to be that follows a formula, in $z; null when it takes more to know. */
    private function value(Formula $formula, Field $field): ?string
    {
        $source = $this->made($formula, $field);

        return $source === null ? null : ($source[1] === null ? sprintf('$z=%s;', $source[0]) : sprintf('$x=%s;if($x===null)$z=null;elseif(%s)$z=$y;else return null;', ...$source));
    }

    /** @param  array<string, string|null>  $sources */
    private static function map(array $sources): string
    {
        $sources = array_filter($sources, is_string(...));

        return '['.implode(",\n", array_map(fn (string|int $key, string $source): string => var_export((string) $key, true).'=>'.$source, array_keys($sources), $sources)).']';
    }

    private function step(Formula $formula, Field $field): ?string
    {
        $source = $this->made($formula, $field);

        return $source === null ? null : ($source[1] === null ? 'static fn($e,$s,$w)=>'.$source[0] : sprintf('static function($e,$s,$w){$x=%s;return $x===null?null:(%s?$y:$e->leave());}', ...$source));
    }

    /** @return array{string, string|null}|null what a formula comes to, and the condition under which a field takes that, {@see Fitting}, unless it always does; null when it takes more to know */
    private function made(Formula $formula, Field $field): ?array
    {
        $at = $this->paths->of($formula->tree);
        if ($at !== null && $at['type'] === $field->behavesAs() && $at['to'] === $field->to && $this->takesAll($field, $at['field'])) {
            // as a word, since what is no longer there is nothing
            return [$at['isPlain'] ? $at['code'] : $this->paths->word($formula->tree) ?? $at['code'], null];
        }
        if ($at !== null && $at['type'] === FieldType::Person && $field->behavesAs() === FieldType::Person) {
            return [$this->paths->word($formula->tree) ?? 'null', Fitting::PERSON];
        }
        $fits = ! $field->isComputed() ? Fitting::condition($field) : match ($field->behavesAs()) {
            FieldType::Person => Fitting::PERSON,
            FieldType::Text => Fitting::TEXT, FieldType::LongText => Fitting::LONG_TEXT, FieldType::Number => '(is_int($y=$x))', FieldType::YesNo => '(is_bool($y=$x))', default => null,
        };

        return $fits === null ? null : [$this->compiler->expression($formula->tree), $fits];
    }

    /** Whether every value of one field fits another of the same type. */
    private function takesAll(Field $field, ?Field $of): bool
    {
        return match ($field->behavesAs()) {
            FieldType::Reference, FieldType::Team, FieldType::YesNo => true,
            FieldType::Text, FieldType::LongText => $field->pattern === null,
            FieldType::Number => $of !== null && $field->min === null && $field->max === null && ($field->decimals === null || $field->decimals === $of->decimals),
            default => false,
        };
    }
}
