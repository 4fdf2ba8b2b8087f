<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel\BuiltIn;

use Brick\Math\BigDecimal;
use Sorvel\Core\Feel\Context;
use Sorvel\Core\Feel\FunctionValue;
use Sorvel\Core\Feel\Number;
use Sorvel\Core\Feel\PlainContext;
use Sorvel\Core\Feel\Values;

/** Conversion, boolean and context functions (10.3.4.1, 10.3.4.2, 10.3.4.12), and Sorvel's own tag(). */
final class OtherFunctions implements FunctionSet
{
    public static function functions(): array
    {
        return [
            new FunctionValue('not', ['negand'], fn (array $a): ?bool => is_bool($a[0]) ? ! $a[0] : null, 1),
            new FunctionValue('string', ['from'], fn (array $a): ?string => self::text($a[0]), 1),
            new FunctionValue('number', ['from', 'grouping separator', 'decimal separator'], self::number(...), 1),
            new FunctionValue('get value', ['m', 'key'], fn (array $a): mixed => $a[0] instanceof Context && is_string($a[1]) ? $a[0]->get($a[1]) : null, 2),
            new FunctionValue('get entries', ['m'], fn (array $a): ?array => $a[0] instanceof Context ? array_map(fn (string $n): Context => new PlainContext(['key' => $n, 'value' => $a[0]->get($n)]), $a[0]->names()) : null, 1),
            new FunctionValue('tag', ['text'], fn (array $a): ?string => is_string($a[0]) ? self::tag($a[0]) : null, 1),
        ];
    }

    public static function text(mixed $value): ?string
    {
        return match (true) {
            $value === null => null,
            is_string($value) => $value,
            is_bool($value) => $value ? 'true' : 'false',
            is_int($value), $value instanceof BigDecimal => Number::text($value),
            $value instanceof Context && $value->identity() !== null => $value->identity(),
            default => json_encode(Values::json($value), JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES) ?: null,
        };
    }

    /** @param  list<mixed>  $arguments */
    private static function number(array $arguments): int|BigDecimal|null
    {
        [$from, $grouping, $decimal] = [...$arguments, null, null];
        if (! is_string($from)) {
            return Number::is($from) ? $from : null;
        }
        $allowed = $decimal ?? '.';
        if (! in_array($grouping, [null, ' ', ',', '.'], true) || ! in_array($allowed, ['.', ','], true) || $grouping === $allowed) {
            return null;
        }
        $plain = str_replace($allowed, '.', $grouping === null ? $from : str_replace($grouping, '', $from));

        return preg_match('~^[+-]?(\d+(\.\d+)?|\.\d+)([eE][+-]?\d{1,4})?$~', $plain) === 1 ? Number::of($plain) : null;
    }

    /** Lower case letters, digits and hyphens, no longer than a tag may be. */
    private static function tag(string $text): ?string
    {
        $tag = trim((string) preg_replace('~[^\p{L}\p{N}]+~u', '-', mb_strtolower($text)), '-');

        return $tag === '' ? null : mb_substr($tag, 0, 60);
    }
}
