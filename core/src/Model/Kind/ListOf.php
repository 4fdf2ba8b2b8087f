<?php

declare(strict_types=1);

namespace Sorvel\Core\Model\Kind;

use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Viewer;

/** Several people, or several records: each once, in the order given. */
final class ListOf implements FieldKind
{
    public const MOST = 1000;

    public function __construct(private readonly FieldKind $each)
    {
    }

    public function fit(mixed $value, Field $field, Viewer $viewer, bool $byRule): mixed
    {
        $list = [];
        foreach (is_array($value) ? $value : [$value] as $one) {
            $fitting = $this->each->fit($one, $field, $viewer, $byRule);
            if (! in_array($fitting, $list, true)) {
                $list[] = $fitting;
            }
        }
        if (count($list) > self::MOST) {
            throw new Misfit(sprintf('at most %d fit.', self::MOST));
        }

        return $list;
    }

    public function seen(mixed $stored, Field $field, Viewer $viewer, string $path): mixed
    {
        $seen = array_map(fn (mixed $one): mixed => $this->each->seen($one, $field, $viewer, $path), is_array($stored) ? $stored : []);

        return array_values(array_filter($seen, fn (mixed $one): bool => $one !== null));
    }

    public function words(mixed $stored, Field $field, Viewer $viewer): string
    {
        return self::joined($this->each, $stored, $field, $viewer);
    }

    public function read(string $words, Field $field, Viewer $viewer): mixed
    {
        return self::parted($this->each, $words, $field, $viewer);
    }

    /** Entries in words, with semicolons between. */
    public static function joined(FieldKind $each, mixed $stored, Field $field, Viewer $viewer): string
    {
        return implode('; ', array_map(fn (mixed $one): string => $each->words($one, $field, $viewer), is_array($stored) ? $stored : []));
    }

    /**
     * @return list<mixed>
     *
     * @throws Misfit
     */
    public static function parted(FieldKind $each, string $words, Field $field, Viewer $viewer): array
    {
        $entries = array_filter(array_map(trim(...), preg_split('~[;\n]~', $words) ?: []), fn (string $entry): bool => $entry !== '');

        return array_values(array_map(fn (string $entry): mixed => $each->read($entry, $field, $viewer), $entries));
    }
}
