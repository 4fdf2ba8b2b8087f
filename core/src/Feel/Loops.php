<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel;

/** Going over lists, for compiled formulas. */
final class Loops
{
    /**
     * @param  iterable<mixed>  $items
     * @param  \Closure(mixed): mixed  $body
     */
    public static function each(iterable $items, \Closure $body, Warnings $warnings): null
    {
        foreach ($items as $item) {
            $warnings->step();
            $body($item);
        }

        return null;
    }

    /**
     * `some` (true decides) and `every` (false decides).
     *
     * @param  iterable<mixed>  $items
     * @param  \Closure(mixed): mixed  $body
     * @param  bool  $innermost  whether the body is the condition itself; else it is a loop of its own
     * @return array{bool, bool, bool} decided, by what, whether all was known
     */
    public static function quantified(iterable $items, \Closure $body, bool $decides, bool $innermost, Warnings $warnings): array
    {
        $known = true;
        foreach ($items as $item) {
            $warnings->step();
            $value = $body($item);
            if ($innermost) {
                if ($value === $decides) {
                    return [true, $decides, true];
                }
                $known = $known && is_bool($value);
            } else {
                if ($value[0]) {
                    return $value;
                }
                $known = $known && $value[2];
            }
        }

        return [false, $decides, $known];
    }

    /** @param  array{bool, bool, bool}  $outcome decided, by what, whether all was known */
    public static function answer(array $outcome): ?bool
    {
        [$decided, $decides, $known] = $outcome;

        return $decided ? $decides : ($known ? ! $decides : null);
    }
}
