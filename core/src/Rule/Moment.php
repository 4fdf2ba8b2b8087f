<?php

declare(strict_types=1);

namespace Sorvel\Core\Rule;

use Sorvel\Core\Engine\Event;
use Sorvel\Core\Feel\Scope;
use Sorvel\Core\Model\Record;

/** What a start is asked about. */
final class Moment
{
    /**
     * @param  string  $rule  key of the rule that asks
     * @param  Event|null  $event  until the rule has been asked once; then null
     * @param  bool  $isCreation  whether the event made the record
     * @param  Record  $since  the record when the rule last looked; before its first look, as the event found it
     */
    public function __construct(
        public readonly string $rule,
        public readonly ?Event $event,
        public readonly bool $isCreation,
        public readonly Record $since,
        public readonly Record $now,
        public readonly Scope $scope,
    ) {
    }
}
