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

    public function words(mixed $stored, Field $field, Viewer $viewer): string
    {
        return $stored === true ? 'yes' : 'no';
    }

    public function read(string $words, Field $field, Viewer $viewer): bool
    {
        return match (mb_strtolower($words)) {
            'yes', 'y', 'true', '1' => true,
            'no', 'n', 'false', '0' => false,
            default => throw new Misfit(sprintf('"%s" is neither yes nor no.', mb_strimwidth($words, 0, 40, '…'))),
        };
    }
}
