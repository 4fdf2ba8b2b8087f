<?php

declare(strict_types=1);

namespace Sorvel\Core\Rule;

use Sorvel\Core\Feel\UnaryTests;
use Sorvel\Core\Feel\Warnings;
use Sorvel\Core\Model\Record;

/**
 * Starts when one of the fields has another value than when the rule last looked. The values that a record is created
 * with are not changes: that is what `created` is for.
 */
final class ChangedStart implements Start
{
    /** @param  non-empty-list<string>  $fields */
    public function __construct(
        public readonly array $fields,
        public readonly ?UnaryTests $from,
        public readonly ?UnaryTests $to,
    ) {
    }

    public function kind(): string
    {
        return 'changed';
    }

    public function why(Moment $moment): ?array
    {
        foreach ($this->fields as $field) {
            $before = $moment->since->value($field);
            $after = $moment->now->value($field);
            if (! Record::same($before, $after) && $this->fits($this->from, $before, $moment) && $this->fits($this->to, $after, $moment)) {
                return ['kind' => 'changed', 'field' => $field, 'from' => Record::plain($before), 'to' => Record::plain($after)];
            }
        }

        return null;
    }

    public function watches(): array
    {
        return $this->fields;
    }

    private function fits(?UnaryTests $tests, mixed $value, Moment $moment): bool
    {
        return $tests === null || $tests->hold($value, $moment->scope, new Warnings) === true;
    }
}
