<?php

declare(strict_types=1);

namespace Sorvel\Core\Model\Kind;

use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Viewer;

final class YesNoKind implements FieldKind
{
    public function fit(mixed $value, Field $field, Viewer $viewer, bool $byRule): bool
    {
        return is_bool($value) ? $value : throw new Misfit('it must be yes or no (true or false).');
    }

    public function seen(mixed $stored, Field $field, Viewer $viewer, string $path): mixed
    {
        return $stored;
    }
}
