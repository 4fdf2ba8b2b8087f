<?php

declare(strict_types=1);

namespace Sorvel\Core\Rule;

use Sorvel\Core\Engine\EventKind;
use Sorvel\Core\Model\Role;

/** A person starts it from the record; what they are asked is `event.inputs`. */
final class ByHandStart implements Start
{
    /**
     * @param  list<Role>  $roles  who may, and all above the least of them; agents when none is given
     * @param  list<Question>  $questions
     */
    public function __construct(public readonly array $roles, public readonly array $questions)
    {
    }

    public function kind(): string
    {
        return 'by_hand';
    }

    /** The least role that may. */
    public function needs(): Role
    {
        return $this->roles === [] ? Role::Agent : Role::least($this->roles);
    }

    public function why(Moment $moment): ?array
    {
        return $moment->event?->kind === EventKind::ByHand && isset($moment->event->due[$moment->rule]) ? ['kind' => 'by_hand', 'by' => $moment->event->by, 'inputs' => $moment->event->data['inputs'] ?? []] : null;
    }

    public function watches(): array
    {
        return [];
    }
}
