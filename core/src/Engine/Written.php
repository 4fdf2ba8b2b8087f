<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\Record;

/** What a change came to. */
final class Written
{
    /**
     * @param  mixed  $before  stored values
     * @param  string  $why  why it was left alone, or how it came about
     * @param  string|null  $problem  why it does not fit
     * @param  array<string, string>  $turns  who was given a turn, by team
     * @param  bool  $isMade  whether the field has another value now
     */
    public function __construct(public readonly Field $field, public readonly mixed $before, public readonly mixed $after, public readonly string $why, public readonly ?string $problem, public readonly array $turns, public readonly bool $isMade = false)
    {
    }

    /** @return array{field: string, before: mixed, after: mixed, rule: string|null} plain data */
    public function told(string $rule): array
    {
        return ['field' => $this->field->key, 'before' => Record::plain($this->before), 'after' => Record::plain($this->after), 'rule' => $rule];
    }
}
