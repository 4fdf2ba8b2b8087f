<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel\BuiltIn;

use Brick\Math\BigDecimal;
use Sorvel\Core\Feel\Context;
use Sorvel\Core\Feel\FunctionValue;
use Sorvel\Core\Feel\Number;
use Sorvel\Core\Feel\PlainContext;
use Sorvel\Core\Feel\Temporal\Temporal;
use Sorvel\Core\Feel\TypeName;
use Sorvel\Core\Feel\Values;
use Sorvel\Core\Model\Kind\RichTextKind;

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
            new FunctionValue('context', ['entries'], self::context(...), 1),
            new FunctionValue('context put', ['context', 'key', 'value'], self::put(...), 3, others: [['context', 'keys', 'value']]),
            new FunctionValue('context merge', ['contexts'], self::merge(...), 1),
            new FunctionValue('is', ['value1', 'value2'], fn (array $a): bool => TypeName::of($a[0]) === TypeName::of($a[1]) && ($a[0] instanceof Temporal ? (string) $a[0] === (string) $a[1] : Values::equal($a[0], $a[1]) === true), 2),
            new FunctionValue('plain text', ['rich'], fn (array $a): ?string => is_string($a[0]) ? RichTextKind::plain($a[0]) : null, 1),
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
            $value instanceof Temporal => (string) $value,
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
    public static function tag(string $text): ?string
    {
        $tag = trim((string) preg_replace('~[^\p{L}\p{N}]+~u', '-', mb_strtolower($text)), '-');

        return $tag === '' ? null : mb_substr($tag, 0, 60);
    }

    /** @param  list<mixed>  $a */
    private static function context(array $a): ?Context
    {
        $entries = [];
        foreach (is_array($a[0]) ? $a[0] : [$a[0]] as $entry) {
            if (! $entry instanceof Context || ! is_string($entry->get('key')) || ! $entry->has('value') || array_key_exists($entry->get('key'), $entries)) {
                return null;
            }
            $entries[$entry->get('key')] = $entry->get('value');
        }

        return new PlainContext($entries);
    }

    /** @param  list<mixed>  $a */
    private static function put(array $a): ?Context
    {
        [$context, $keys, $value] = $a;
        $keys = is_array($keys) ? $keys : [$keys];
        $key = array_shift($keys);
        if (! $context instanceof Context || ! is_string($key)) {
            return null;
        }
        $entries = self::entries($context);
        if ($keys !== []) {
            $value = self::put([$entries[$key] ?? new PlainContext([]), $keys, $value]);
            if ($value === null) {
                return null;
            }
        }
        $entries[$key] = $value;

        return new PlainContext($entries);
    }

    /** @param  list<mixed>  $a */
    private static function merge(array $a): ?Context
    {
        $entries = [];
        foreach (is_array($a[0]) ? $a[0] : [$a[0]] as $context) {
            if (! $context instanceof Context) {
                return null;
            }
            $entries = [...$entries, ...self::entries($context)];
        }

        return new PlainContext($entries);
    }

    /** @return array<string, mixed> */
    private static function entries(Context $context): array
    {
        return array_combine($context->names(), array_map($context->get(...), $context->names()));
    }
}
