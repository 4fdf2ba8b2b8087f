<?php

declare(strict_types=1);

namespace Sorvel\Core\Guard;

use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Feel\Walk;
use Sorvel\Core\Model\Field;

/** A condition under which a field is read-only, required, hidden, or limited in its choices. */
final class Guard
{
    /**
     * @param  non-empty-list<string>  $on  types
     * @param  Formula|null  $when  in force while it is yes; always when left out
     * @param  Formula|null  $only  for choices: which candidates remain
     */
    public function __construct(
        public readonly string $key,
        public readonly array $on,
        public readonly string $field,
        public readonly Effect $effect,
        public readonly ?Formula $when,
        public readonly ?Formula $only,
        public readonly ?string $reason,
        public readonly ParentChange $onParentChange,
    ) {
    }

    /**
     * Whether it may say something else now that some fields have changed.
     *
     * @param  list<string>  $changed
     */
    public function dependsOn(array $changed): bool
    {
        foreach ($changed as $field) {
            if ($field === $this->field || Walk::mayRead($this->when?->tree, $field) || Walk::mayRead($this->only?->tree, $field)) {
                return true;
            }
        }

        return false;
    }

    /** Why a change of its field is turned down, for the person who made it. */
    public function say(Field $field): string
    {
        $while = $this->when === null ? '' : ' while '.$this->when->source;

        return $field->label.': '.($this->reason ?? match ($this->effect) {
            Effect::ReadOnly => 'it cannot be changed'.$while.'.',
            Effect::Hidden => 'it is not in use'.$while.'.',
            Effect::Required => 'it must not be empty'.$while.'.',
            Effect::Choices => 'this is not one of the choices that remain ('.($this->only->source ?? '').').',
        });
    }
}
