<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel;

use Brick\Math\BigDecimal;
use Sorvel\Core\Feel\Node\InstanceTest;
use Sorvel\Core\Feel\Temporal\Temporal;
use Sorvel\Core\Feel\Temporal\TemporalText;

/** Values that compiled formulas hold and PHP has no literal for: made once, kept by their text. */
final class Constants
{
    /** @var array<string, BigDecimal> */
    private static array $decimals = [];

    /** @var array<string, Temporal> */
    private static array $temporals = [];

    /** @var array<string, TypeName> */
    private static array $types = [];

    public static function decimal(string $text): BigDecimal
    {
        return self::$decimals[$text] ??= BigDecimal::of($text);
    }

    public static function temporal(string $text): Temporal
    {
        return self::$temporals[$text] ??= TemporalText::parse($text) ?? throw new \LogicException('It was parsed before.');
    }

    public static function type(string $text): TypeName
    {
        if (! isset(self::$types[$text])) {
            $tree = Parser::expression('null instance of '.$text);
            self::$types[$text] = $tree instanceof InstanceTest ? $tree->type : throw new \LogicException('It was parsed before.');
        }

        return self::$types[$text];
    }
}
