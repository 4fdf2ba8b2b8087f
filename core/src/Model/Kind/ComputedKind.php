<?php

declare(strict_types=1);

namespace Sorvel\Core\Model\Kind;

use Brick\Math\BigDecimal;
use Sorvel\Core\Feel\Context;
use Sorvel\Core\Feel\Number;
use Sorvel\Core\Feel\Temporal\Temporal;
use Sorvel\Core\Feel\Temporal\TemporalText;
use Sorvel\Core\Feel\Values;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Viewer;

/**
 * What a derived field or a tally comes to: a text, a number, a yes/no, a date or a duration (stored as it is written
 * in a formula: @"P3D"), or a list of texts and numbers. People and records are kept by key.
 */
final class ComputedKind implements FieldKind
{
    public function fit(mixed $value, Field $field, Viewer $viewer, bool $byRule): mixed
    {
        return match (true) {
            $value instanceof Temporal => '@'.$value,
            $value instanceof Context && $value->identity() !== null => $value->identity(),
            is_array($value) => array_map(fn (mixed $each): mixed => is_array($each) ? throw new Misfit('lists in lists cannot be kept.') : $this->fit($each, $field, $viewer, $byRule), array_values($value)),
            is_string($value), is_bool($value), Number::is($value) => $value,
            default => throw new Misfit(sprintf('%s cannot be kept in a field.', Values::kind($value))),
        };
    }

    public function seen(mixed $stored, Field $field, Viewer $viewer, string $path): mixed
    {
        if (is_array($stored)) {
            return array_map(fn (mixed $each): mixed => $this->seen($each, $field, $viewer, $path), $stored);
        }

        return is_string($stored) && str_starts_with($stored, '@') ? TemporalText::parse(substr($stored, 1)) ?? $stored : $stored;
    }

    public function words(mixed $stored, Field $field, Viewer $viewer): string
    {
        return match (true) {
            is_array($stored) => implode('; ', array_map(fn (mixed $one): string => $this->words($one, $field, $viewer), $stored)),
            is_bool($stored) => $stored ? 'yes' : 'no',
            is_int($stored), $stored instanceof BigDecimal => Number::text($stored),
            default => is_string($stored) ? ltrim($stored, '@') : '',
        };
    }

    public function read(string $words, Field $field, Viewer $viewer): never
    {
        throw new Misfit('it follows from other fields.');
    }
}
