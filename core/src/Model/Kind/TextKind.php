<?php

declare(strict_types=1);

namespace Sorvel\Core\Model\Kind;

use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\FieldType;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Viewer;

final class TextKind implements FieldKind
{
    public const MAX_TEXT = 500;

    public const MAX_LONG_TEXT = 200_000;

    public function fit(mixed $value, Field $field, Viewer $viewer, bool $byRule): string
    {
        if (! is_string($value)) {
            throw new Misfit('it must be a text.');
        }
        if (! mb_check_encoding($value, 'UTF-8')) {
            throw new Misfit('it is not valid text.');
        }
        $max = $field->type === FieldType::Text ? self::MAX_TEXT : self::MAX_LONG_TEXT;
        if (mb_strlen($value) > $max) {
            throw new Misfit(sprintf('it has %s characters; at most %s fit.', number_format(mb_strlen($value)), number_format($max)));
        }
        if ($field->type === FieldType::Text && preg_match('~[\x00-\x08\x0A-\x1F]~', $value) === 1) {
            throw new Misfit('it must be a single line.');
        }
        if ($field->pattern !== null && @preg_match('~^(?:'.str_replace('~', '\~', $field->pattern).')$~u', $value) !== 1) {
            throw new Misfit(sprintf('it does not have the form %s.', $field->pattern));
        }

        return $value;
    }

    public function seen(mixed $stored, Field $field, Viewer $viewer, string $path): mixed
    {
        return $stored;
    }

    public function words(mixed $stored, Field $field, Viewer $viewer): string
    {
        return is_string($stored) ? $stored : '';
    }

    public function read(string $words, Field $field, Viewer $viewer): string
    {
        return $words;
    }
}
