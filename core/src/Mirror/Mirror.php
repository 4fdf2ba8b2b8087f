<?php

declare(strict_types=1);

namespace Sorvel\Core\Mirror;

use Sorvel\Core\Feel\Formula;

/** A field kept equal to what a formula reads, on the same record or over a reference. */
final class Mirror
{
    /** Its step in a {@see Course}. */
    public readonly string $step;

    /**
     * @param  non-empty-list<string>  $on  types
     * @param  bool  $isPaired  another mirror keeps the source equal to this field: the later change wins
     */
    public function __construct(
        public readonly string $key,
        public readonly array $on,
        public readonly string $field,
        public readonly Formula $from,
        public readonly Mode $mode,
        public readonly bool $isPaired = false,
    ) {
        $this->step = 'mirror '.$key;
    }

    /** Whether the field can have no value but that of its source. */
    public function isBound(): bool
    {
        return $this->mode === Mode::Always && ! $this->isPaired;
    }

    public function paired(): self
    {
        return new self($this->key, $this->on, $this->field, $this->from, $this->mode, true);
    }
}
