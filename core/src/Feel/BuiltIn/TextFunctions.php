<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel\BuiltIn;

use Sorvel\Core\Feel\EvaluationStopped;
use Sorvel\Core\Feel\FunctionValue;
use Sorvel\Core\Feel\Warnings;

/** Text functions (10.3.4.3). Positions count from 1; a negative one counts from the end. */
final class TextFunctions implements FunctionSet
{
    public static function functions(): array
    {
        return [
            self::onTexts('string length', ['string'], fn (string $s): int => mb_strlen($s)),
            self::onTexts('upper case', ['string'], fn (string $s): string => mb_strtoupper($s)),
            self::onTexts('lower case', ['string'], fn (string $s): string => mb_strtolower($s)),
            self::onTexts('contains', ['string', 'match'], fn (string $s, string $m): bool => str_contains($s, $m)),
            self::onTexts('starts with', ['string', 'match'], fn (string $s, string $m): bool => str_starts_with($s, $m)),
            self::onTexts('ends with', ['string', 'match'], fn (string $s, string $m): bool => str_ends_with($s, $m)),
            self::onTexts('substring before', ['string', 'match'], fn (string $s, string $m): string => $m === '' ? '' : (strstr($s, $m, true) ?: '')),
            self::onTexts('substring after', ['string', 'match'], fn (string $s, string $m): string => $m === '' ? $s : (($at = strpos($s, $m)) === false ? '' : substr($s, $at + strlen($m)))),
            new FunctionValue('substring', ['string', 'start position', 'length'], self::substring(...), 2),
            new FunctionValue('matches', ['input', 'pattern', 'flags'], self::matches(...), 2),
            new FunctionValue('replace', ['input', 'pattern', 'replacement', 'flags'], self::replace(...), 3),
            new FunctionValue('split', ['string', 'delimiter'], self::split(...), 2),
            new FunctionValue('string join', ['list', 'delimiter'], self::join(...), 1),
        ];
    }

    /** @param  list<string>  $parameters */
    private static function onTexts(string $name, array $parameters, \Closure $body): FunctionValue
    {
        return new FunctionValue($name, $parameters, static function (array $arguments) use ($body): mixed {
            foreach ($arguments as $i => $argument) {
                // a list of one counts as what is in it (10.3.2.9.4)
                $arguments[$i] = $argument = is_array($argument) && count($argument) === 1 ? $argument[0] : $argument;
                if (! is_string($argument)) {
                    return null;
                }
            }

            return $body(...$arguments);
        }, count($parameters));
    }

    /** @param  list<mixed>  $arguments */
    private static function substring(array $arguments): ?string
    {
        [$text, $start, $length] = [...$arguments, null];
        if (! is_string($text) || ! is_int($start) || $start === 0 || ($length !== null && (! is_int($length) || $length < 1))) {
            return null;
        }
        $size = mb_strlen($text);
        $from = $start > 0 ? $start - 1 : $size + $start;

        return $from < 0 || $from >= $size ? ($from < 0 ? null : '') : mb_substr($text, $from, $length);
    }

    /** @param  list<mixed>  $arguments */
    private static function matches(array $arguments, Warnings $warnings): ?bool
    {
        [$text, $pattern, $flags] = [...$arguments, null];
        $regex = self::regex($pattern, $flags, $warnings);
        if (! is_string($text) || $regex === null) {
            return null;
        }
        $found = @preg_match($regex, $text);

        return $found === false ? $warnings->add('The pattern could not be used: '.preg_last_error_msg().'.') : $found === 1;
    }

    /** @param  list<mixed>  $arguments */
    private static function replace(array $arguments, Warnings $warnings): ?string
    {
        [$text, $pattern, $replacement, $flags] = [...$arguments, null];
        $regex = self::regex($pattern, $flags, $warnings);
        if (! is_string($text) || ! is_string($replacement) || $regex === null) {
            return null;
        }
        // XPath's replacement: $1 is a group, \$ and \\ stand for themselves
        $size = 0;
        $result = @preg_replace_callback($regex, function (array $groups) use ($replacement, &$size): string {
            $put = (string) preg_replace_callback('~\\\\([\\\\$])|\$(\d)~', fn (array $m): string => $m[1] !== '' ? $m[1] : ($groups[(int) $m[2]] ?? ''), $replacement);
            $size += strlen($put);
            if ($size > 1_000_000) {
                throw new EvaluationStopped('The text grew past a million characters.');
            }

            return $put;
        }, $text);

        return $result ?? $warnings->add('The pattern could not be used: '.preg_last_error_msg().'.');
    }

    private static function regex(mixed $pattern, mixed $flags, Warnings $warnings): ?string
    {
        if (! is_string($pattern) || ($flags !== null && ! is_string($flags))) {
            return null;
        }
        $flags ??= '';
        if (preg_match('~^[smix]*$~', $flags) !== 1) {
            return $warnings->add(sprintf('The flags "%s" are not known; s, m, i and x are.', $flags));
        }
        $regex = '~'.str_replace('~', '\~', $pattern).'~u'.$flags;

        return @preg_match($regex, '') === false ? $warnings->add('The pattern is not a regular expression.') : $regex;
    }

    /**
     * @param  list<mixed>  $arguments
     * @return list<string>|null
     */
    private static function split(array $arguments, Warnings $warnings): ?array
    {
        [$text, $delimiter] = $arguments;
        $regex = self::regex($delimiter, null, $warnings);
        if (! is_string($text) || $regex === null) {
            return null;
        }

        return preg_split($regex, $text) ?: null;
    }

    /** @param  list<mixed>  $arguments */
    private static function join(array $arguments): ?string
    {
        [$list, $delimiter] = [...$arguments, null];
        $list = array_values(array_filter(is_array($list) ? $list : [$list], fn (mixed $item): bool => $item !== null));
        foreach ($list as $item) {
            if (! is_string($item)) {
                return null;
            }
        }

        return $delimiter === null || is_string($delimiter) ? implode($delimiter ?? '', $list) : null;
    }
}
