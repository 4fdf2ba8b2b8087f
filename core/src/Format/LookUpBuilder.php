<?php

declare(strict_types=1);

namespace Sorvel\Core\Format;

use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Finding\FormulaCheck;
use Sorvel\Core\Finding\KnownType;
use Sorvel\Core\Finding\Names;
use Sorvel\Core\Model\FieldType;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Rule\Criteria;
use Sorvel\Core\Rule\LookUp;

/** Look-ups. Each may read those before it. */
final class LookUpBuilder
{
    private const KINDS = ['value', 'first', 'all', ...LookUp::MEASURES];

    public function __construct(private readonly RuleContext $rule)
    {
    }

    /** @param  array<string, mixed>  $l */
    public function lookUp(array $l, string $at): ?LookUp
    {
        $book = $this->rule->book;
        $kinds = array_values(array_intersect(self::KINDS, array_keys($l)));
        if (count($kinds) !== 1) {
            $book->error($at, 'A look-up has one of: '.implode(', ', self::KINDS).'.');

            return null;
        }
        $kind = $kinds[0];
        $this->rule->only($l, $at, $kind === 'value' ? 'a look-up of a value' : sprintf('the look-up kind "%s"', $kind), 'name', $kind, 'none', ...match ($kind) {
            'value' => [], 'first' => ['where', 'order', 'several'], 'all' => ['where', 'order'], 'count' => ['where'], default => ['where', 'field']
        });
        if (isset($this->rule->names[0]->names[$l['name']])) {
            $book->error($at.'/name', sprintf('"%s" is already a name here; give the look-up another.', $l['name']));
        }
        [$none, $use] = $this->none($l['none'] ?? null, $at);
        if ($kind === 'value') {
            $value = $this->rule->formula($at.'/value', $l['value']);
            $this->rule->name($l['name'], KnownType::any());
            $this->rule->names = array_map(fn (Names $n): Names => $n->with($l['name'], self::either($value === null ? KnownType::any() : FormulaCheck::formula($value, $n)->type, $use, $n)), $this->rule->names);
            $held = $value === null ? KnownType::any() : $this->rule->known($value);
            $this->rule->held[$l['name']] = $held->type ?? $held->each->type ?? null;

            return $value === null ? null : new LookUp($l['name'], 'value', $value, null, null, Criteria::of(null, $this->rule->on[0]), null, false, null, $none, $use, 'first');
        }
        [$type] = [...$book->typesOf($l[$kind], $at.'/'.$kind, $this->rule->types), null];
        if ($type === null) {
            $this->rule->name($l['name'], KnownType::any());

            return null;
        }
        $where = isset($l['where']) ? $book->formula($at.'/where', $l['where']) : null;
        if ($where !== null) {
            foreach ($this->rule->names as $names) {
                $book->take($at.'/where', FormulaCheck::condition($where, $names->within($type)));
            }
        }
        [$order, $descending] = $this->order($l['order'] ?? null, $type, $at);
        if ($kind === 'first' && ($l['several'] ?? 'first') === 'first' && $order === null) {
            $book->error($at, 'Say with "order" which of several is the first, or with "several" what happens then: skip_rule or problem.');
        }
        $measured = $this->measured($kind, $l['field'] ?? null, $type, $at);
        $known = match (true) {
            $kind === 'first' => new KnownType('record', type: $type),
            $kind === 'all' => KnownType::listOf(new KnownType('record', type: $type)),
            $measured !== null && ($kind === 'min' || $kind === 'max') => KnownType::ofField($type->fields[$measured], $this->rule->types),
            default => new KnownType('number'),
        };
        $this->rule->held[$l['name']] = $kind === 'first' || $kind === 'all' ? $type : null;
        $this->rule->names = array_map(fn (Names $n): Names => $n->with($l['name'], self::either($known, $use, $n)), $this->rule->names);

        return new LookUp($l['name'], $kind, null, $type, $where, Criteria::of($where, $type), $order, $descending, $measured, $none, $use, $l['several'] ?? 'first');
    }

    /** @return array{'null'|'skip_rule'|'problem'|'use', Formula|null} */
    private function none(mixed $none, string $at): array
    {
        if (is_array($none) && isset($none['use'])) {
            return ['use', $this->rule->formula($at.'/none/use', $none['use'])];
        }
        if (is_string($none) && ! in_array($none, ['null', 'skip_rule', 'problem'], true)) {
            $this->rule->book->error($at.'/none', sprintf('"%s" is not known here; write null, skip_rule, problem or {use: formula}.', $none));
        }

        return [$none === 'skip_rule' || $none === 'problem' ? $none : 'null', null];
    }

    /** @return array{Formula|null, bool} a formula in a candidate's fields, and whether the greatest comes first */
    private function order(?string $order, RecordType $type, string $at): array
    {
        if ($order === null) {
            return [null, false];
        }
        $descending = preg_match('~^(.*\S)\s+descending$~s', trim($order), $m) === 1;
        $formula = $this->rule->book->formula($at.'/order', $descending ? $m[1] : $order);
        if ($formula !== null) {
            foreach ($this->rule->names as $names) {
                $this->rule->book->take($at.'/order', FormulaCheck::formula($formula, $names->within($type)));
            }
        }

        return [$formula, $descending];
    }

    private function measured(string $kind, ?string $key, RecordType $type, string $at): ?string
    {
        if (! in_array($kind, LookUp::MEASURES, true) || $kind === 'count') {
            return null;
        }
        if ($key === null) {
            $this->rule->book->error($at, sprintf('"%s" needs "field": what is measured.', $kind));

            return null;
        }
        $field = $this->rule->book->fieldOf($type, $key, $at.'/field');
        $fit = [FieldType::Number, FieldType::Percent, ...($kind === 'min' || $kind === 'max' ? [FieldType::Date, FieldType::DateTime] : [])];
        if ($field !== null && $kind !== 'distinct' && ! in_array($field->behavesAs(), $fit, true)) {
            $this->rule->book->error($at.'/field', sprintf('%s is no number, so it has no %s.', $field->label, $kind));
        }

        return $field?->key;
    }

    /** With a value to use instead, only what both are. */
    private static function either(KnownType $type, ?Formula $use, Names $names): KnownType
    {
        $other = $use === null ? $type : FormulaCheck::formula($use, $names)->type;

        return $type->what === $other->what && $type->what !== 'null' ? $type : KnownType::any();
    }
}
