<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

use Sorvel\Core\Rule\FieldChange;

/** What a rule wants done beside the record that it ran on, worked out on the settled record. */
final class Action
{
    /**
     * @param  string  $rule  its key
     * @param  string  $kind  note, message, notify, call, create; or the kind of a field change, for other records
     * @param  string  $record  id of the record that the rule ran on
     * @param  array<string, mixed>  $data  plain data, by kind: for, text · to, subject, body · people, text · call, endpoint, method, headers, body · type, with
     * @param  FieldChange|null  $change  for other records
     * @param  mixed  $cell  what its cell came to
     * @param  list<string>  $ids  of the other records
     */
    public function __construct(
        public readonly string $rule,
        public readonly string $kind,
        public readonly string $record,
        public readonly array $data,
        public readonly ?FieldChange $change = null,
        public readonly mixed $cell = null,
        public readonly array $ids = [],
    ) {
    }
}
