<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

use Sorvel\Core\Feel\CompiledFormulas;
use Sorvel\Core\Feel\Scope;
use Sorvel\Core\Feel\Warnings;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\Reads;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Rulebook;
use Sorvel\Core\Rule\Rule;

/**
 * Rules compiled to PHP, by what their source depends on: a rule of a draft that is as it is in the edition in force is
 * found, one that is being edited is not, and is walked.
 */
final class CompiledRules
{
    /** @var array<string, array{bool, \Closure(EventScope, Scope, Warnings, Settling, list<array{field: string, before: mixed, after: mixed, rule: string|null}>): int, \Closure(EventScope, Scope, Settling, Reads, array<string, mixed>, list<array{field: string, before: mixed, after: mixed, rule: string|null}>): int, array<string, array{\Closure|null, \Closure|null, \Closure|null, \Closure|null}>, array<string, array{\Closure, \Closure}>}> */
    private static array $looks = [];

    /** @var \WeakMap<Rulebook, array<string, array<int, Plan>>>|null plans of rulebooks that have been asked for, by type */
    private static ?\WeakMap $plans = null;

    /** @var array<string, array{\Closure, \Closure}> a pass over all rules of a type, and the same in full */
    private static array $passes = [];

    /** @var array<string, array{array<string, \Closure>, array<string, \Closure>, array<string, \Closure>, \Closure|null, array<string, \Closure>}> what stands around rules, {@see Frame} */
    private static array $frames = [];

    /** @var \WeakMap<Rulebook, array<string, Frame>>|null of rulebooks that have been asked for, by type */
    private static ?\WeakMap $framing = null;

    /** @var \WeakMap<Rulebook, array<string, array{\Closure, \Closure}|null>>|null passes of rulebooks that have been asked for, by type */
    private static ?\WeakMap $passing = null;

    /** @var \WeakMap<Rule, array<string, string>>|null what rules are known by, by what their type is known by */
    private static ?\WeakMap $keys = null;

    /** @return string a PHP file that returns a rulebook's formulas, its tests and its rules, {@see load} */
    public static function source(Rulebook $rulebook): string
    {
        [$sources, $passes, $frames] = [[], [], []];
        foreach ($rulebook->types as $type) {
            $limited = self::limited($rulebook, $type);
            $of = self::typeKey($rulebook, $type);
            $frames[] = sprintf('%s=>%s', var_export(self::frameKey($rulebook, $type, $of), true), FrameCompiler::source($rulebook, $type));
            if ($rulebook->rulesOn($type->key) !== []) {
                $passes[] = sprintf('%s=>[%s,%s]', var_export(self::passKey($rulebook, $type, $of), true), PassCompiler::source($rulebook, $type, $limited, false), PassCompiler::source($rulebook, $type, $limited, true));
            }
            foreach ($rulebook->rulesOn($type->key) as $rule) {
                if (RuleCompiler::can($rule)) {
                    $key = self::key($rulebook, $rule, $of);
                    $sources[$key] = var_export($key, true).'=>'.self::entry(RuleCompiler::source($rule, $type, $rulebook->types, $limited), RuleCompiler::tellingSource($rule, $type, $rulebook->types, $limited), LookUpCompiler::finds($rule, $type, $rulebook->types), LookUpCompiler::waiting($rule, $type, $rulebook->types));
                }
            }
        }

        return "<?php\n\nreturn [".implode(',', [...CompiledFormulas::maps(...$rulebook->formulas()), "[\n".implode(",\n", $sources)."\n]", "[\n".implode(",\n", $passes)."\n]", "[\n".implode(",\n", $frames)."\n]"])."];\n";
    }

    private static function entry(string $look, string $telling, string $finds, string $waiting): string
    {
        return sprintf('[%s,%s,%s,%s,%s]', str_contains($look, '$s->') || str_contains($look, '($s,') ? 'true' : 'false', $look, $telling, $finds, $waiting);
    }

    public static function load(string $file): void
    {
        [$formulas, $tests, $looks, $passes, $frames] = require $file;
        CompiledFormulas::know($formulas, $tests);
        self::$looks = $looks + self::$looks;
        self::$passes = $passes + self::$passes;
        self::$frames = $frames + self::$frames;
        self::$plans = self::$passing = self::$framing = null;
    }

    /** @return string|null a new file in a folder, with {@see source}; null when it cannot be written whole */
    public static function write(Rulebook $rulebook, string $folder): ?string
    {
        $source = self::source($rulebook);
        $file = @tempnam($folder, 'compiled');
        if ($file !== false && @file_put_contents($file, $source) !== strlen($source)) {
            unlink($file);

            return null;
        }

        return $file === false ? null : $file;
    }

    /** For this process alone; where no file can be written, formulas and rules are walked, which comes to the same. */
    public static function make(Rulebook $rulebook): void
    {
        $file = self::write($rulebook, sys_get_temp_dir());
        if ($file !== null) {
            self::load($file);
            unlink($file);
        }
    }

    public static function forget(): void
    {
        self::$looks = self::$passes = self::$frames = [];
        self::$plans = self::$passing = self::$framing = null;
        CompiledFormulas::forget();
    }

    /** @return array<int, Plan> by place of the rule among those of the type; those that are compiled */
    public static function of(Rulebook $rulebook, RecordType $type): array
    {
        if (self::$looks === []) {
            return [];
        }
        self::$plans ??= new \WeakMap;
        self::$plans[$rulebook] ??= [];

        return self::$plans[$rulebook][$type->key] ??= self::plans($rulebook, $type);
    }

    /** @return array{\Closure, \Closure}|null a pass over all rules of a type, {@see PassCompiler}, and the same in full; null when one of them is not as it was compiled */
    public static function passing(Rulebook $rulebook, RecordType $type): ?array
    {
        if (self::$passes === []) {
            return null;
        }
        self::$passing ??= new \WeakMap;
        self::$passing[$rulebook] ??= [];
        if (! array_key_exists($type->key, self::$passing[$rulebook])) {
            self::$passing[$rulebook][$type->key] = self::$passes[self::passKey($rulebook, $type, self::typeKey($rulebook, $type))] ?? null;
        }

        return self::$passing[$rulebook][$type->key];
    }

    /** What stands around the rules of a type; empty where that is not as it was compiled. */
    public static function frame(Rulebook $rulebook, RecordType $type): Frame
    {
        if (self::$frames === []) {
            return new Frame;
        }
        self::$framing ??= new \WeakMap;
        self::$framing[$rulebook] ??= [];

        return self::$framing[$rulebook][$type->key] ??= new Frame(...self::$frames[self::frameKey($rulebook, $type, self::typeKey($rulebook, $type))] ?? []);
    }

    /** Works out what its parts are known by, before a rulebook is kept somewhere. */
    public static function identify(Rulebook $rulebook): void
    {
        foreach ($rulebook->types as $type) {
            $of = self::typeKey($rulebook, $type);
            self::passKey($rulebook, $type, $of);
            self::frameKey($rulebook, $type, $of);
        }
    }

    private static function frameKey(Rulebook $rulebook, RecordType $type, string $of): string
    {
        return $rulebook->knownBy('frame '.$type->key, fn (): string => hash('xxh128', $of.FrameCompiler::parts($rulebook, $type)));
    }

    /** What the source of a pass depends on, as a short text. */
    private static function passKey(Rulebook $rulebook, RecordType $type, string $of): string
    {
        return $rulebook->knownBy('pass '.$type->key, function () use ($rulebook, $type, $of): string {
            $rules = array_map(fn (Rule $rule): array => [RuleCompiler::can($rule) ? self::key($rulebook, $rule, $of) : $rule->key, Plan::starts($rule), $rule->waiting === []], $rulebook->rulesOn($type->key));
            $followed = array_filter(array_keys($type->fields), fn (string|int $field): bool => $rulebook->watchers($type->key)->isFollowed((string) $field));

            return hash('xxh128', serialize([$of, $rules, $rulebook->watching($type->key), array_values($followed), FrameCompiler::parts($rulebook, $type)]));
        });
    }

    private static function typeKey(Rulebook $rulebook, RecordType $type): string
    {
        return $rulebook->knownBy('type '.$type->key, fn (): string => RuleCompiler::typeKey($type, $rulebook->types, self::limited($rulebook, $type)));
    }

    private static function key(Rulebook $rulebook, Rule $rule, string $of): string
    {
        return $rulebook->knownBy('rule '.$rule->key.' '.$of, function () use ($rule, $of): string {
            // rulebooks that differ in one rule share the others
            self::$keys ??= new \WeakMap;
            self::$keys[$rule] ??= [];

            return self::$keys[$rule][$of] ??= RuleCompiler::key($rule, $of);
        });
    }

    /** @return array<int, Plan> */
    private static function plans(Rulebook $rulebook, RecordType $type): array
    {
        $of = self::typeKey($rulebook, $type);
        $plans = [];
        foreach ($rulebook->rulesOn($type->key) as $place => $rule) {
            $look = RuleCompiler::can($rule) ? self::$looks[self::key($rulebook, $rule, $of)] ?? null : null;
            $look === null || $plans[$place] = new Plan($rule, ...$look);
        }

        return $plans;
    }

    /** @return list<string> fields whose choices guards limit */
    private static function limited(Rulebook $rulebook, RecordType $type): array
    {
        return array_map(fn (Field $f): string => $f->key, $rulebook->course($type->key)->limited);
    }
}
