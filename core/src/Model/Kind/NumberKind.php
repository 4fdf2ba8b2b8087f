<?php

declare(strict_types=1);

namespace Sorvel\Core\Model\Kind;

use Brick\Math\BigDecimal;
use Brick\Math\RoundingMode;
use Sorvel\Core\Feel\Number;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\FieldType;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Viewer;

final class NumberKind implements FieldKind
{
    public function fit(mixed $value, Field $field, Viewer $viewer, bool $byRule): int|BigDecimal
    {
        $number = is_float($value) ? Number::fromFloat($value) : $value;
        if (! is_int($number) && ! $number instanceof BigDecimal) {
            throw new Misfit('it must be a number.');
        }
        if ($field->decimals !== null) {
            $rounded = Number::round($number, $field->decimals, RoundingMode::HalfEven);
            if (! $byRule && Number::compare($rounded, $number) !== 0) {
                throw new Misfit(sprintf('it may have at most %d decimals.', $field->decimals));
            }
            $number = $rounded;
        }
        [$min, $max] = $field->bounds();
        if ($min !== null && Number::compare($number, $min) < 0) {
            throw new Misfit(sprintf('%s is less than %s.', Number::text($number), Number::text($min)));
        }
        if ($max !== null && Number::compare($number, $max) > 0) {
            throw new Misfit(sprintf('%s is more than %s.', Number::text($number), Number::text($max)));
        }

        return $number;
    }

    public function seen(mixed $stored, Field $field, Viewer $viewer, string $path): mixed
    {
        return $stored;
    }

    public function words(mixed $stored, Field $field, Viewer $viewer): string
    {
        return is_int($stored) || $stored instanceof BigDecimal ? Number::text($stored) : '';
    }

    public function read(string $words, Field $field, Viewer $viewer): int|BigDecimal
    {
        $digits = $field->type === FieldType::Percent ? rtrim(rtrim($words, '%')) : $words;
        if (preg_match('~^[+-]?\d{1,34}(\.\d{1,34})?$~', $digits) !== 1) {
            throw new Misfit(sprintf('"%s" is not a number; an example is 12.5.', mb_strimwidth($words, 0, 40, '…')));
        }

        return Number::of(ltrim($digits, '+'));
    }
}
