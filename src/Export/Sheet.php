<?php

declare(strict_types=1);

namespace Sorvel\App\Export;

/** Cells that a spreadsheet takes for formulas are made harmless on the way out, and themselves again on the way in. */
final class Sheet
{
    public static function harmless(string $words): string
    {
        return preg_match('~^[=+\-@\t\r]~', $words) === 1 && ! is_numeric($words) ? "'".$words : $words;
    }

    public static function itself(string $cell): string
    {
        return preg_match('~^\'[=+\-@\t\r]~', $cell) === 1 ? substr($cell, 1) : $cell;
    }
}
