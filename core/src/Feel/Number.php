<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel;

use Brick\Math\BigDecimal;
use Brick\Math\BigInteger;
use Brick\Math\RoundingMode;

/**
 * Exact decimals of 34 digits, half even (10.3.2.3.1). A whole number that fits is an int, anything else a BigDecimal.
 */
final class Number
{
    public const DIGITS = 34;

    /** The greatest exponent, as of IEEE 754 decimal128. */
    private const MOST = 6144;

    public static function of(string|int|BigDecimal $value): int|BigDecimal
    {
        if (is_int($value)) {
            return $value;
        }
        $decimal = $value instanceof BigDecimal ? $value : BigDecimal::of($value);
        $surplus = self::digits($decimal) - self::DIGITS;
        if ($surplus > 0) {
            $decimal = self::rounded($decimal, $surplus);
        }
        $decimal = $decimal->strippedOfTrailingZeros();
        $magnitude = self::digits($decimal) - $decimal->getScale();
        if ($magnitude > self::MOST + 1) {
            throw new EvaluationStopped('The number grew past 10 to the '.self::MOST.'.');
        }
        if ($magnitude < -self::MOST) {
            return 0;
        }
        if ($decimal->getScale() <= 0) {
            $whole = (string) $decimal->toScale(0);
            if (strlen($whole) < 19) {
                return (int) $whole;
            }

            return BigDecimal::of($whole);
        }

        return $decimal;
    }

    /** Half even at the 34th digit; on the digits themselves, since numbers may have thousands of them. */
    private static function rounded(BigDecimal $value, int $surplus): BigDecimal
    {
        $digits = ltrim((string) $value->getUnscaledValue()->abs(), '0');
        $head = substr($digits, 0, self::DIGITS);
        $tail = substr($digits, self::DIGITS);
        $half = '5'.str_repeat('0', $surplus - 1);
        $order = strcmp($tail, $half);
        $kept = BigInteger::of($head);
        if ($order > 0 || ($order === 0 && (int) $head[self::DIGITS - 1] % 2 === 1)) {
            $kept = $kept->plus(1);
        }
        $scale = $value->getScale() - $surplus;
        $result = $scale >= 0 ? BigDecimal::ofUnscaledValue($kept, $scale) : BigDecimal::of($kept.str_repeat('0', -$scale));

        return $value->isNegative() ? $result->negated() : $result;
    }

    public static function is(mixed $value): bool
    {
        return is_int($value) || $value instanceof BigDecimal;
    }

    public static function decimal(int|BigDecimal $value): BigDecimal
    {
        return $value instanceof BigDecimal ? $value : BigDecimal::of($value);
    }

    public static function compare(int|BigDecimal $a, int|BigDecimal $b): int
    {
        return is_int($a) && is_int($b) ? $a <=> $b : self::decimal($a)->compareTo(self::decimal($b));
    }

    /** PHP turns a whole result that does not fit into a float; then the exact way is taken. */
    private static function whole(int|float $result): ?int
    {
        return is_int($result) ? $result : null;
    }

    public static function add(int|BigDecimal $a, int|BigDecimal $b): int|BigDecimal
    {
        if (is_int($a) && is_int($b)) {
            $sum = self::whole($a + $b);
            if ($sum !== null) {
                return $sum;
            }
        }

        return self::of(self::decimal($a)->plus(self::decimal($b)));
    }

    public static function subtract(int|BigDecimal $a, int|BigDecimal $b): int|BigDecimal
    {
        if (is_int($a) && is_int($b)) {
            $difference = self::whole($a - $b);
            if ($difference !== null) {
                return $difference;
            }
        }

        return self::of(self::decimal($a)->minus(self::decimal($b)));
    }

    public static function multiply(int|BigDecimal $a, int|BigDecimal $b): int|BigDecimal
    {
        if (is_int($a) && is_int($b)) {
            $product = self::whole($a * $b);
            if ($product !== null) {
                return $product;
            }
        }

        return self::of(self::decimal($a)->multipliedBy(self::decimal($b)));
    }

    /** Null when dividing by zero. */
    public static function divide(int|BigDecimal $a, int|BigDecimal $b): int|BigDecimal|null
    {
        if (self::sign($b) === 0) {
            return null;
        }
        if (is_int($a) && is_int($b) && $b !== -1 && $a % $b === 0) {
            return intdiv($a, $b);
        }
        $left = self::decimal($a);
        $right = self::decimal($b);
        $whole = self::digits($left) - $left->getScale() - (self::digits($right) - $right->getScale());

        return self::of($left->dividedBy($right, max(0, self::DIGITS + 1 - $whole), RoundingMode::HalfEven));
    }

    /** Null when the exponent is not a whole number of at most 999, or 0 is raised to a negative one. */
    public static function power(int|BigDecimal $a, int|BigDecimal $b): int|BigDecimal|null
    {
        if (! is_int($b) || abs($b) > 999) {
            return null;
        }
        $result = 1;
        for ($i = 0; $i < abs($b); $i++) {
            $result = self::multiply($result, $a);
            if (! is_int($result) && self::digits($result) - $result->getScale() > 6144) {
                return null;
            }
        }

        return $b < 0 ? self::divide(1, $result) : $result;
    }

    /** Null below zero. Computed on the number's own digits, however large or small it is. */
    public static function squareRoot(int|BigDecimal $a): int|BigDecimal|null
    {
        if (self::sign($a) <= 0) {
            return self::sign($a) === 0 ? 0 : null;
        }
        $decimal = self::decimal($a);
        $digits = ltrim((string) $decimal->getUnscaledValue(), '0');
        // a = 0.digits × 10^exponent, with an even exponent
        $exponent = strlen($digits) - $decimal->getScale();
        $odd = abs($exponent) % 2;
        $mantissa = BigDecimal::of('0.'.str_repeat('0', $odd).rtrim($digits, '0'));
        $root = $mantissa->sqrt(self::DIGITS + 3, RoundingMode::HalfEven);
        $half = intdiv($exponent + $odd, 2);
        $power = BigDecimal::of('1'.str_repeat('0', abs($half)));

        return self::of($half >= 0 ? $root->multipliedBy($power) : BigDecimal::ofUnscaledValue($root->getUnscaledValue(), $root->getScale() - $half));
    }

    public static function negate(int|BigDecimal $a): int|BigDecimal
    {
        return self::subtract(0, $a);
    }

    public static function sign(int|BigDecimal $a): int
    {
        return is_int($a) ? $a <=> 0 : $a->getSign();
    }

    public static function round(int|BigDecimal $a, int $scale, RoundingMode $mode): int|BigDecimal
    {
        return is_int($a) && $scale >= 0 ? $a : ($scale >= 0
            ? self::of(self::decimal($a)->toScale($scale, $mode))
            : self::of(self::decimal($a)->withPointMovedLeft(-$scale)->toScale(0, $mode)->withPointMovedRight(-$scale)));
    }

    public static function text(int|BigDecimal $a): string
    {
        return (string) $a;
    }

    /** For JSON: a number when no digit is lost, else its text. */
    public static function json(int|BigDecimal $a): int|float|string
    {
        if (is_int($a)) {
            return $a;
        }
        $text = (string) $a;
        $float = (float) $text;

        return BigDecimal::of(self::floatText($float))->isEqualTo($a) ? $float : $text;
    }

    public static function fromFloat(float $value): int|BigDecimal|null
    {
        return is_finite($value) ? self::of(self::floatText($value)) : null;
    }

    private static function floatText(float $value): string
    {
        return (string) json_encode($value);
    }

    private static function digits(BigDecimal $value): int
    {
        return strlen(ltrim((string) $value->getUnscaledValue()->abs(), '0')) ?: 1;
    }
}
