<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel\BuiltIn;

use Brick\Math\BigDecimal;
use Brick\Math\RoundingMode;
use Sorvel\Core\Feel\FunctionValue;
use Sorvel\Core\Feel\Number;
use Sorvel\Core\Feel\Temporal\DaysDuration;
use Sorvel\Core\Feel\Temporal\MonthsDuration;
use Sorvel\Core\Feel\Warnings;

/** Number functions (10.3.4.5). */
final class NumberFunctions implements FunctionSet
{
    /** Digits after the point while a series is summed. */
    private const GUARD = 44;

    public static function functions(): array
    {
        return [
            self::rounding('decimal', RoundingMode::HalfEven, 2),
            self::rounding('floor', RoundingMode::Floor, 1),
            self::rounding('ceiling', RoundingMode::Ceiling, 1),
            self::rounding('round up', RoundingMode::Up, 2),
            self::rounding('round down', RoundingMode::Down, 2),
            self::rounding('round half up', RoundingMode::HalfUp, 2),
            self::rounding('round half down', RoundingMode::HalfDown, 2),
            new FunctionValue('abs', ['n'], fn (array $a): mixed => self::abs($a[0]), 1),
            self::onNumbers('exp', ['number'], self::exp(...), 4000),
            self::onNumbers('log', ['number'], self::log(...), 12000),
            self::onNumbers('modulo', ['dividend', 'divisor'], self::modulo(...)),
            self::onNumbers('sqrt', ['number'], Number::squareRoot(...)),
            self::onNumbers('odd', ['number'], fn (int|BigDecimal $n): ?bool => is_int($n) ? $n % 2 !== 0 : null),
            self::onNumbers('even', ['number'], fn (int|BigDecimal $n): ?bool => is_int($n) ? $n % 2 === 0 : null),
        ];
    }

    /**
     * @param  list<string>  $parameters
     * @param  int  $steps  what a call counts for, beside others
     */
    private static function onNumbers(string $name, array $parameters, \Closure $body, int $steps = 1): FunctionValue
    {
        return new FunctionValue($name, $parameters, static function (array $arguments, Warnings $warnings) use ($body, $steps): mixed {
            $warnings->step($steps);
            foreach ($arguments as $i => $argument) {
                $arguments[$i] = $argument = is_array($argument) && count($argument) === 1 ? $argument[0] : $argument;
                if (! Number::is($argument)) {
                    return null;
                }
            }

            return $body(...$arguments);
        }, count($parameters));
    }

    private static function rounding(string $name, RoundingMode $mode, int $required): FunctionValue
    {
        return new FunctionValue($name, ['n', 'scale'], static function (array $arguments) use ($mode): int|BigDecimal|null {
            [$number, $scale] = [...$arguments, 0];

            return (is_int($number) || $number instanceof BigDecimal) && is_int($scale) && abs($scale) <= 6111 ? Number::round($number, $scale, $mode) : null;
        }, $required);
    }

    /** dividend - divisor * floor(dividend / divisor): the sign is the divisor's. */
    private static function modulo(int|BigDecimal $dividend, int|BigDecimal $divisor): int|BigDecimal|null
    {
        $quotient = Number::divide($dividend, $divisor);

        return $quotient === null ? null : Number::subtract($dividend, Number::multiply($divisor, Number::round($quotient, 0, RoundingMode::Floor)));
    }

    private static function abs(mixed $n): mixed
    {
        return match (true) {
            is_array($n) && count($n) === 1 => self::abs($n[0]),
            is_int($n), $n instanceof BigDecimal => Number::sign($n) < 0 ? Number::negate($n) : $n,
            $n instanceof DaysDuration => $n->isNegative() ? $n->negated() : $n,
            $n instanceof MonthsDuration => MonthsDuration::of(abs($n->months)),
            default => null,
        };
    }

    /** Halved until small, summed as a series, squared back. */
    private static function exp(int|BigDecimal $n): int|BigDecimal|null
    {
        if (Number::compare($n, 1000) > 0 || Number::compare($n, -1000) < 0) {
            return null;
        }
        if (Number::sign($n) < 0) {
            return Number::divide(1, self::exp(Number::negate($n)) ?? 1);
        }
        // the error of the sum doubles with each squaring, and grows with the size of the result
        $halvings = 8;
        $x = Number::decimal($n)->dividedBy(2 ** $halvings, self::GUARD, RoundingMode::HalfEven);
        $sum = $term = BigDecimal::one();
        for ($k = 1; $k < 40; $k++) {
            $term = $term->multipliedBy($x)->dividedBy($k, self::GUARD, RoundingMode::HalfEven);
            if ($term->isZero()) {
                break;
            }
            $sum = $sum->plus($term);
        }
        for ($i = 0; $i < $halvings; $i++) {
            $sum = $sum->multipliedBy($sum)->toScale(self::GUARD, RoundingMode::HalfEven);
        }

        return Number::of($sum);
    }

    /** The natural logarithm, by Newton's method from a float: each step doubles the digits. */
    private static function log(int|BigDecimal $n): int|BigDecimal|null
    {
        if (Number::sign($n) <= 0) {
            return null;
        }
        $float = log((float) (string) $n);
        if (! is_finite($float) || abs($float) > 900) {
            return null;
        }
        $y = BigDecimal::of(sprintf('%.15F', $float));
        for ($i = 0; $i < 3; $i++) {
            $power = Number::decimal(self::exp($y) ?? 1);
            if ($power->isZero()) {
                return null;
            }
            $target = Number::decimal($n);
            $y = $y->plus($target->minus($power)->multipliedBy(2)->dividedBy($target->plus($power), self::GUARD, RoundingMode::HalfEven));
        }

        return Number::of($y->toScale(36, RoundingMode::HalfEven));
    }
}
