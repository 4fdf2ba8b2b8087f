<?php

declare(strict_types=1);

namespace Sorvel\Core\Rule;

use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Model\RecordType;

/** A named value, found at most once and only when something reads it. */
final class LookUp
{
    /** Measures over records of a type, beside `first` and `all`; all but `count` are of a field. */
    public const MEASURES = ['count', 'sum', 'average', 'min', 'max', 'distinct'];

    /**
     * @param  'value'|'first'|'all'|'count'|'sum'|'average'|'min'|'max'|'distinct'  $kind
     * @param  Formula|null  $value  for `value`
     * @param  RecordType|null  $type  of the candidates, for all others
     * @param  Formula|null  $where  in a candidate's fields and `record`
     * @param  Formula|null  $order  in a candidate's fields
     * @param  string|null  $field  of a candidate, for a measure that needs one
     * @param  'null'|'skip_rule'|'problem'|'use'  $none  what happens when nothing is found
     * @param  Formula|null  $use  the value instead, for `use`
     * @param  'first'|'skip_rule'|'problem'  $several  what happens when `first` finds more than one
     */
    public function __construct(
        public readonly string $name,
        public readonly string $kind,
        public readonly ?Formula $value,
        public readonly ?RecordType $type,
        public readonly ?Formula $where,
        public readonly Criteria $criteria,
        public readonly ?Formula $order,
        public readonly bool $descending,
        public readonly ?string $field,
        public readonly string $none,
        public readonly ?Formula $use,
        public readonly string $several,
    ) {
    }

    /** Whether finding nothing, or several, ends the rule. */
    public function mayEndRule(): bool
    {
        return in_array($this->none, ['skip_rule', 'problem'], true) || ($this->kind === 'first' && $this->several !== 'first');
    }

    public function formula(): string
    {
        return $this->value->source ?? trim(sprintf('%s %s%s%s%s', $this->kind, $this->type->key ?? '', $this->field === null ? '' : '.'.$this->field, $this->where === null ? '' : ' where '.$this->where->source, $this->order === null ? '' : ' order '.$this->order->source.($this->descending ? ' descending' : '')));
    }
}
