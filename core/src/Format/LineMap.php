<?php

declare(strict_types=1);

namespace Sorvel\Core\Format;

/**
 * Finds the line of each path in a YAML text that is known to parse. Knows block and flow collections, quoted and
 * plain scalars over several lines, block texts and comments.
 */
final class LineMap
{
    /** @var array<string, int> */
    private array $lines = [];

    private int $at = 0;

    private int $line = 1;

    private int $length;

    private function __construct(private readonly string $text)
    {
        $this->length = strlen($text);
        $this->node('', -1);
    }

    public static function of(string $text): self
    {
        return new self(str_replace("\r\n", "\n", $text));
    }

    /** The line of the path, or of the nearest path around it. */
    public function line(string $path): ?int
    {
        while ($path !== '' && ! isset($this->lines[$path])) {
            $path = (string) substr($path, 0, (int) strrpos($path, '/'));
        }

        return $this->lines[$path] ?? null;
    }

    private function note(string $path): void
    {
        $this->lines[$path] ??= $this->line;
    }

    private function peek(): string
    {
        return $this->text[$this->at] ?? '';
    }

    private function skipBlank(): void
    {
        while ($this->at < $this->length) {
            $c = $this->text[$this->at];
            if ($c === "\n") {
                $this->line++;
                $this->at++;
            } elseif ($c === ' ' || $c === "\t") {
                $this->at++;
            } elseif ($c === '#' && ($this->at === 0 || str_contains(" \t\n", $this->text[$this->at - 1]))) {
                $this->toLineEnd();
            } elseif ($this->column() === 0 && in_array(substr($this->text, $this->at, 3), ['---', '...'], true)) {
                $this->at += 3;
            } else {
                return;
            }
        }
    }

    private function toLineEnd(): void
    {
        $end = strpos($this->text, "\n", $this->at);
        $this->at = $end === false ? $this->length : $end;
    }

    private function column(): int
    {
        $start = strrpos(substr($this->text, 0, $this->at), "\n");

        return $this->at - ($start === false ? 0 : $start + 1);
    }

    /** One node whose lines stand further in than $indent. */
    private function node(string $path, int $indent): void
    {
        $this->skipBlank();
        $this->note($path);
        $column = $this->column();
        if ($this->at >= $this->length) {
            return;
        }
        $c = $this->peek();
        if ($c === '{' || $c === '[') {
            $this->flow($path);
        } elseif ($this->atDash() && $column > $indent - 1) {
            $this->sequence($path, $column);
        } elseif ($column > $indent && $this->keyHere() !== null) {
            $this->mapping($path, $column);
        } elseif ($column > $indent) {
            $this->scalar($indent);
        }
    }

    private function atDash(): bool
    {
        return $this->peek() === '-' && in_array($this->text[$this->at + 1] ?? "\n", [' ', "\n"], true);
    }

    private function sequence(string $path, int $column): void
    {
        for ($index = 0; ; $index++) {
            $this->skipBlank();
            if ($this->at >= $this->length || $this->column() !== $column || ! $this->atDash()) {
                return;
            }
            $this->note($path.'/'.$index);
            $this->at++;
            $this->node($path.'/'.$index, $column);
        }
    }

    private function mapping(string $path, int $column): void
    {
        while (true) {
            $this->skipBlank();
            $key = $this->at < $this->length && $this->column() === $column ? $this->keyHere() : null;
            if ($key === null) {
                return;
            }
            $inner = $path.'/'.self::escape($key[0]);
            $this->note($inner);
            $this->at += $key[1];
            $line = $this->line;
            $before = $this->at;
            $this->skipBlank();
            if ($this->line > $line && ($this->column() < $column || ($this->column() === $column && ! $this->atDash()))) {
                continue;
            }
            $this->at = $before;
            $this->line = $line;
            $this->node($inner, $column);
        }
    }

    public static function escape(string $key): string
    {
        return str_replace(['~', '/'], ['~0', '~1'], $key);
    }

    /** @return array{string, int}|null the key that starts here, and its length with the colon */
    private function keyHere(): ?array
    {
        if (preg_match('~\G(?:"((?:[^"\\\\]|\\\\.)*)"|\'((?:[^\']|\'\')*)\'|([^\s#\-?{}\[\],&*!|>%@`"\'][^\n#]*?|-[^\s][^\n]*?))[ \t]*:(?=[ \n]|$)~', $this->text, $m, PREG_UNMATCHED_AS_NULL, $this->at) !== 1) {
            return null;
        }

        return [$m[1] ?? $m[2] ?? (string) $m[3], strlen((string) $m[0])];
    }

    private function scalar(int $indent): void
    {
        $c = $this->peek();
        if ($c === '"' || $c === "'") {
            $this->quoted($c);

            return;
        }
        $block = $c === '|' || $c === '>';
        $this->toLineEnd();
        while ($this->at < $this->length) {
            $at = $this->at;
            $line = $this->line;
            while ($this->peek() === "\n") {
                $this->at++;
                $this->line++;
                $this->at += strspn($this->text, ' ', $this->at);
            }
            if ($this->at >= $this->length || $this->column() <= $indent || (! $block && ($this->peek() === '#'))) {
                $this->at = $at;
                $this->line = $line;

                return;
            }
            $this->toLineEnd();
        }
    }

    private function quoted(string $quote): void
    {
        for ($this->at++; $this->at < $this->length; $this->at++) {
            $c = $this->text[$this->at];
            if ($c === "\n") {
                $this->line++;
            } elseif ($c === '\\' && $quote === '"') {
                $this->at++;
            } elseif ($c === $quote) {
                if ($quote === "'" && ($this->text[$this->at + 1] ?? '') === "'") {
                    $this->at++;

                    continue;
                }
                $this->at++;

                return;
            }
        }
    }

    private function flow(string $path): void
    {
        $this->note($path);
        $map = $this->peek() === '{';
        $this->at++;
        for ($index = 0; $this->at < $this->length; $index++) {
            $this->skipBlank();
            $c = $this->peek();
            if ($c === '}' || $c === ']') {
                $this->at++;

                return;
            }
            $inner = $path.'/'.$index;
            if ($map) {
                $key = $this->flowScalar();
                $inner = $path.'/'.self::escape($key);
            }
            $this->note($inner);
            $this->skipBlank();
            if ($map && $this->peek() === ':') {
                $this->at++;
                $this->skipBlank();
            }
            $c = $this->peek();
            if ($c === '{' || $c === '[') {
                $this->flow($inner);
            } elseif ($c !== ',' && $c !== '}' && $c !== ']') {
                $this->flowScalar();
            }
            $this->skipBlank();
            if ($this->peek() === ',') {
                $this->at++;
            }
        }
    }

    private function flowScalar(): string
    {
        $start = $this->at;
        $c = $this->peek();
        if ($c === '"' || $c === "'") {
            $this->quoted($c);

            return substr($this->text, $start + 1, $this->at - $start - 2);
        }
        while ($this->at < $this->length) {
            $c = $this->text[$this->at];
            if (str_contains(',{}[]', $c) || ($c === ':' && str_contains(" \n,}]", $this->text[$this->at + 1] ?? "\n"))) {
                break;
            }
            if ($c === "\n") {
                $this->line++;
            }
            $this->at++;
        }
        if ($this->at === $start) {
            $this->at++;
        }

        return trim(substr($this->text, $start, $this->at - $start));
    }
}
