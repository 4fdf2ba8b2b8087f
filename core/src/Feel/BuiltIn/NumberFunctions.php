<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel\BuiltIn;

use Brick\Math\BigDecimal;
use Brick\Math\RoundingMode;
use Sorvel\Core\Feel\FunctionValue;
use Sorvel\Core\Feel\Number;

/** Number functions (10.3.4.5). */
final class NumberFunctions implements FunctionSet
{
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
            self::onNumbers('abs', ['n'], fn (int|BigDecimal $n): int|BigDecimal => Number::sign($n) < 0 ? Number::negate($n) : $n),
            self::onNumbers('modulo', ['dividend', 'divisor'], self::modulo(...)),
            self::onNumbers('sqrt', ['number'], fn (int|BigDecimal $n): int|BigDecimal|null => Number::sign($n) < 0 ? null : Number::of(Number::decimal($n)->sqrt(Number::DIGITS, RoundingMode::HalfEven))),
            self::onNumbers('odd', ['number'], fn (int|BigDecimal $n): ?bool => is_int($n) ? $n % 2 !== 0 : null),
            self::onNumbers('even', ['number'], fn (int|BigDecimal $n): ?bool => is_int($n) ? $n % 2 === 0 : null),
        ];
    }

    /** @param  list<string>  $parameters */
    private static function onNumbers(string $name, array $parameters, \Closure $body): FunctionValue
    {
        return new FunctionValue($name, $parameters, static function (array $arguments) use ($body): mixed {
            foreach ($arguments as $argument) {
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
}
