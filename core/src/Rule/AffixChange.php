<?php

declare(strict_types=1);

namespace Sorvel\Core\Rule;

use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\Viewer;

/**
 * `{prefix: FIELD}` and `{suffix: FIELD}`: a text before or after what stands there, once. The text that the same cell
 * gave before the event is replaced; null does nothing.
 */
final class AffixChange extends FieldChange
{
    public function __construct(string $field, public readonly bool $isPrefix, ?string $of = null)
    {
        parent::__construct($field, $of);
    }

    public function kind(): string
    {
        return $this->isPrefix ? 'prefix' : 'suffix';
    }

    public function propose(mixed $cell, mixed $current, Field $field, Viewer $viewer, \Closure $past): Proposal
    {
        if (Record::isEmpty($cell)) {
            return Proposal::keep('no value');
        }
        if (! is_string($cell)) {
            throw new Misfit(sprintf('a %s must come to a text.', $this->kind()));
        }
        $current = is_string($current) ? $current : '';
        if ($this->stands($cell, $current)) {
            return Proposal::keep('stands there already');
        }
        $old = $past();
        $why = '';
        if (is_string($old) && $old !== '' && $this->stands($old, $current)) {
            $current = $this->isPrefix ? substr($current, strlen($old)) : substr($current, 0, -strlen($old));
            $why = sprintf('in place of "%s"', mb_strimwidth($old, 0, 60, '…'));
        }

        return Proposal::become($field->kind->fit($this->isPrefix ? $cell.$current : $current.$cell, $field, $viewer, byRule: true), $why);
    }

    private function stands(string $text, string $current): bool
    {
        return $this->isPrefix ? str_starts_with($current, $text) : str_ends_with($current, $text);
    }
}
