<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel;

use Brick\Math\BigDecimal;

/** Values as JSON text, numbers with all their digits; and JSON text as values, exactly. */
final class Json
{
    private const FLAGS = JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES | JSON_THROW_ON_ERROR | JSON_INVALID_UTF8_SUBSTITUTE;

    public static function encode(mixed $value): string
    {
        if ($value instanceof BigDecimal) {
            return self::number($value);
        }
        if (is_array($value)) {
            return '['.implode(',', array_map(self::encode(...), $value)).']';
        }
        if ($value instanceof Context && $value->identity() === null) {
            return '{'.implode(',', array_map(fn (string $name): string => json_encode($name, self::FLAGS).':'.self::encode($value->get($name)), $value->names())).'}';
        }
        if ($value instanceof Range) {
            return sprintf('{"start":%s,"end":%s,"start_included":%s,"end_included":%s}', self::encode($value->start), self::encode($value->end), $value->startIncluded ? 'true' : 'false', $value->endIncluded ? 'true' : 'false');
        }

        return json_encode(Values::json($value), self::FLAGS);
    }

    /**
     * Numbers that PHP would round stay exact.
     *
     * @throws \JsonException
     */
    public static function decode(string $text): mixed
    {
        json_decode($text, false, 128, JSON_THROW_ON_ERROR);
        // numbers are carried over as marked texts; what stands in quotes is left alone
        $marked = preg_replace_callback('~"(?:[^"\\\\]|\\\\.)*"|-?\d+(?:\.\d+)?(?:[eE][+-]?\d+)?~s', fn (array $m): string => $m[0][0] === '"' ? '"t'.substr($m[0], 1) : '"n'.$m[0].'"', $text);

        return self::unmarked(json_decode((string) $marked, false, 128, JSON_THROW_ON_ERROR));
    }

    private static function unmarked(mixed $value): mixed
    {
        if (is_array($value)) {
            return array_map(self::unmarked(...), $value);
        }
        if ($value instanceof \stdClass) {
            $entries = [];
            foreach (get_object_vars($value) as $key => $entry) {
                $entries[substr((string) $key, 1)] = self::unmarked($entry);
            }

            return new PlainContext($entries);
        }
        if (is_string($value)) {
            return $value[0] === 't' ? substr($value, 1) : self::exact(substr($value, 1));
        }

        return $value;
    }

    private static function exact(string $number): int|BigDecimal|null
    {
        if (preg_match('~[eE][+-]?(\d+)$~', $number, $m) === 1 && (strlen($m[1]) > 4 || (int) $m[1] > 6144)) {
            return null;
        }

        return Number::of($number);
    }

    private static function number(BigDecimal $value): string
    {
        $text = (string) $value;

        return strlen($text) <= 80 ? $text : self::scientific($value);
    }

    private static function scientific(BigDecimal $value): string
    {
        $digits = rtrim((string) $value->getUnscaledValue()->abs(), '0');
        $exponent = strlen((string) $value->getUnscaledValue()->abs()) - 1 - $value->getScale();

        return ($value->isNegative() ? '-' : '').$digits[0].(strlen($digits) > 1 ? '.'.substr($digits, 1) : '').'E'.($exponent < 0 ? '' : '+').$exponent;
    }
}
