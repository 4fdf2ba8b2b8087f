<?php

declare(strict_types=1);

namespace Sorvel\Core\Model\Kind;

use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Viewer;

final class TagsKind implements FieldKind
{
    public const MAX_TAGS = 200;

    public function fit(mixed $value, Field $field, Viewer $viewer, bool $byRule): mixed
    {
        $list = is_array($value) ? array_values($value) : [$value];
        $tags = [];
        foreach ($list as $tag) {
            if (! is_string($tag) || preg_match('~^[\p{L}\p{N}](?:[\p{L}\p{N}_.:-]*[\p{L}\p{N}])?$~u', $tag) !== 1 || mb_strlen($tag) > 60) {
                throw new Misfit(sprintf('%s is not a tag: letters, digits and hyphens, at most 60.', is_string($tag) ? '"'.mb_strimwidth($tag, 0, 60, '…').'"' : 'an entry'));
            }
            if (! in_array($tag, $tags, true)) {
                $tags[] = $tag;
            }
        }
        if (count($tags) > self::MAX_TAGS) {
            throw new Misfit(sprintf('at most %d tags fit.', self::MAX_TAGS));
        }

        return $tags;
    }

    public function seen(mixed $stored, Field $field, Viewer $viewer, string $path): mixed
    {
        return $stored;
    }

    public function words(mixed $stored, Field $field, Viewer $viewer): string
    {
        return ListOf::joined(new TextKind, $stored, $field, $viewer);
    }

    public function read(string $words, Field $field, Viewer $viewer): mixed
    {
        return ListOf::parted(new TextKind, $words, $field, $viewer);
    }
}
