<?php

declare(strict_types=1);

namespace Sorvel\Core\Proposal;

/** A text that has the form of a regular expression of the plain kind: classes, counts, groups and alternatives. */
final class Pattern
{
    private int $at = 0;

    private function __construct(private readonly string $pattern)
    {
    }

    /** Null when it holds more than that. */
    public static function example(string $pattern): ?string
    {
        $text = (new self($pattern))->alternatives();

        return $text !== null && @preg_match('~^(?:'.str_replace('~', '\~', $pattern).')$~u', $text) === 1 ? $text : null;
    }

    private function alternatives(): ?string
    {
        $first = $this->sequence();
        while (substr($this->pattern, $this->at, 1) === '|') {
            $this->at++;
            $this->sequence();
        }

        return $first;
    }

    private function sequence(): ?string
    {
        $text = '';
        while ($this->at < strlen($this->pattern) && ! in_array($this->pattern[$this->at], ['|', ')'], true)) {
            $one = $this->one();
            if ($one === null) {
                return null;
            }
            $text .= str_repeat($one, $this->times());
        }

        return $text;
    }

    private function one(): ?string
    {
        $sign = $this->pattern[$this->at++];
        if ($sign === '(') {
            if (substr($this->pattern, $this->at, 2) === '?:') {
                $this->at += 2;
            }
            $inner = $this->alternatives();
            $this->at++;

            return $inner;
        }
        if ($sign === '[') {
            $end = $this->at < strlen($this->pattern) ? strpos($this->pattern, ']', $this->at + 1) : false;
            $class = $end === false ? '' : substr($this->pattern, $this->at, $end - $this->at);
            $this->at = $end === false ? strlen($this->pattern) : $end + 1;

            return $this->member('['.$class.']');
        }
        if ($sign === '\\') {
            return $this->member('\\'.substr($this->pattern, $this->at++, 1));
        }

        return match ($sign) {
            '.' => 'a', '^', '$' => '', default => $sign
        };
    }

    private function member(string $class): ?string
    {
        foreach (str_split('1aA-_. bB2') as $sign) {
            if (@preg_match('~^'.str_replace('~', '\~', $class).'$~u', $sign) === 1) {
                return $sign;
            }
        }

        return null;
    }

    private function times(): int
    {
        $sign = substr($this->pattern, $this->at, 1);
        if (in_array($sign, ['?', '*', '+'], true)) {
            $this->at++;

            return 1;
        }
        if ($sign === '{' && preg_match('~^\{(\d+)(,\d*)?\}~', substr($this->pattern, $this->at), $match) === 1) {
            $this->at += strlen($match[0]);

            return max(1, (int) $match[1]);
        }

        return 1;
    }
}
