<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

use Sorvel\Core\Feel\Compiler;
use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\FieldType;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Rulebook;

/** Mirrors, derived fields and guards of a type as PHP, {@see Frame}. */
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
            $known[$field->key] = $field->isPlain ? $own[$field->key] : sprintf('$e->seen(%s)', var_export($field->key, true));
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
            $parts[] = [$mirror->step, $mirror->field, $mirror->from->source];
        }
        foreach ($type->derived as $field) {
            $parts[] = [$field->key, $field->behavesAs(), $field->formula?->source];
        }
        foreach ($rulebook->guardsOn($type->key) as $guard) {
            $parts[] = [$guard->key, $guard->field, $guard->when?->source, $guard->only?->source];
        }

        return serialize($parts);
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

        return sprintf('[%s,%s,%s]', self::map($steps), self::map($when), self::map($only));
    }

    /** @param  array<string, string|null>  $sources */
    private static function map(array $sources): string
    {
        $sources = array_filter($sources, is_string(...));

        return '['.implode(",\n", array_map(fn (string|int $key, string $source): string => var_export((string) $key, true).'=>'.$source, array_keys($sources), $sources)).']';
    }

    /** What a field is to be that follows a formula; null when it takes more to know. */
    private function step(Formula $formula, Field $field): ?string
    {
        $at = $this->paths->of($formula->tree);
        if ($at !== null && $at['type'] === $field->behavesAs() && $at['to'] === $field->to && $this->takesAll($field, $at['field'])) {
            return 'static fn($e,$s,$w)=>'.$at['code'];
        }
        $fits = ! $field->isComputed() ? Fitting::condition($field) : match ($field->behavesAs()) {
            FieldType::Text => Fitting::TEXT, FieldType::LongText => Fitting::LONG_TEXT, FieldType::Number => '(is_int($y=$x))', FieldType::YesNo => '(is_bool($y=$x))', default => null,
        };

        return $fits === null ? null : sprintf('static function($e,$s,$w){$x=%s;return $x===null?null:(%s?$y:$e->leave());}', $this->compiler->expression($formula->tree), $fits);
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
