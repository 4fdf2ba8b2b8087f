<?php

declare(strict_types=1);

namespace Sorvel\Core\Guard;

use Sorvel\Core\Feel\Context;
use Sorvel\Core\Feel\Scope;

/** Names of a candidate stand bare; `record` is the record that a choice is made for; the rest is the event's. */
final class Candidate implements Scope
{
    public function __construct(private readonly Context $candidate, private readonly Scope $event)
    {
    }

    public function has(string $name): bool
    {
        return $this->candidate->has($name) || $this->event->has($name);
    }

    public function get(string $name): mixed
    {
        return $this->candidate->has($name) ? $this->candidate->get($name) : $this->event->get($name);
    }
}
