<?php

declare(strict_types=1);

namespace Sorvel\Core\Format;

/** The known word that was probably meant. */
final class Nearest
{
    /** @param  iterable<string>  $known */
    public static function to(string $word, iterable $known): ?string
    {
        if (strlen($word) > 100) {
            return null;
        }
        $best = null;
        // two swapped letters count as two changes
        $distance = (strlen($word) < 4 ? 1 : max(2, intdiv(strlen($word), 3))) + 1;
        foreach ($known as $candidate) {
            $between = strlen($candidate) > 100 ? PHP_INT_MAX : levenshtein(strtolower($word), strtolower($candidate));
            if ($between < $distance) {
                $best = $candidate;
                $distance = $between;
            }
        }

        return $best;
    }
}
