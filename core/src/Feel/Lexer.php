<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel;

/**
 * Source text to tokens (DMN 1.5, 10.3.1.2, rules 26 to 35: names, literals, comments).
 */
final class Lexer
{
    private const KEYWORDS = ['and', 'or', 'if', 'then', 'else', 'in', 'between', 'for', 'return', 'some', 'every', 'satisfies', 'true', 'false', 'null', 'function', 'instance', 'external'];

    private const PATTERN = '~
        (?<space>(?:[\p{Z}\x09-\x0D]|//[^\n]*|/\*.*?\*/)+)
        |(?<number>\d+(?:\.\d+)?(?:[eE][+-]?\d+)?|\.\d+(?:[eE][+-]?\d+)?)
        |(?<text>"(?:[^"\\\\]|\\\\.)*")
        |(?<name>[\p{L}_][\p{L}\p{N}\p{M}_]*)
        |(?<symbol>\*\*|\.\.|<=|>=|!=|->|[-+*/=<>()\[\]{},:.?@])
        ~xsuA';

    /** @return non-empty-list<Token> the last one is the end */
    public function tokens(string $source): array
    {
        if (! mb_check_encoding($source, 'UTF-8')) {
            throw new FeelError('The formula is not valid UTF-8 text.', 0, strlen($source));
        }
        $tokens = [];
        $at = 0;
        $length = strlen($source);
        while ($at < $length) {
            if (preg_match(self::PATTERN, $source, $match, PREG_UNMATCHED_AS_NULL, $at) !== 1 || ($match[0] === '/' && ($source[$at + 1] ?? '') === '*')) {
                throw $this->unreadable($source, $at);
            }
            $to = $at + strlen((string) $match[0]);
            $token = match (true) {
                isset($match['number']) => new Token(TokenKind::Number, $match['number'], $at, $to),
                isset($match['text']) => new Token(TokenKind::Text, $this->unescape($match['text'], $at), $at, $to),
                isset($match['name']) => new Token(in_array($match['name'], self::KEYWORDS, true) ? TokenKind::Keyword : TokenKind::Name, $match['name'], $at, $to),
                isset($match['symbol']) => new Token(TokenKind::Symbol, $match['symbol'], $at, $to),
                default => null,
            };
            if ($token !== null) {
                $tokens[] = $token;
            }
            $at = $to;
        }
        $tokens[] = new Token(TokenKind::End, '', $length, $length);

        return $tokens;
    }

    private function unreadable(string $source, int $at): FeelError
    {
        $character = mb_substr(mb_strcut($source, $at), 0, 1);
        if ($character === '"') {
            return new FeelError('This text has no closing quote.', $at, strlen($source), 'a closing "');
        }
        if (str_starts_with(substr($source, $at), '/*')) {
            return new FeelError('This comment is not closed.', $at, strlen($source), '*/');
        }

        return new FeelError(sprintf('"%s" has no meaning here.', $character), $at, $at + strlen($character));
    }

    private function unescape(string $quoted, int $at): string
    {
        $inner = substr($quoted, 1, -1);
        if (! str_contains($inner, '\\')) {
            return $inner;
        }
        $text = preg_replace_callback('~\\\\(u[0-9A-Fa-f]{4}\\\\u[0-9A-Fa-f]{4}|u[0-9A-Fa-f]{4}|U[0-9A-Fa-f]{6}|.)~su', function (array $match) use ($at, $quoted): string {
            $code = $match[1];
            if (preg_match('~^u(D[89AB][0-9A-F]{2})\\\\u(D[C-F][0-9A-F]{2})$~i', $code, $pair) === 1) {
                return mb_chr(0x10000 + ((int) hexdec($pair[1]) - 0xD800) * 0x400 + (int) hexdec($pair[2]) - 0xDC00);
            }
            if (preg_match('~^u([0-9A-F]{4})\\\\u([0-9A-F]{4})$~i', $code, $two) === 1) {
                return $this->character($two[1], $at, $quoted).$this->character($two[2], $at, $quoted);
            }
            if (strlen($code) > 4) {
                return $this->character(substr($code, 1), $at, $quoted);
            }

            return match ($code) {
                'n' => "\n", 't' => "\t", 'r' => "\r", '"', '\\', "'", '/' => $code,
                default => throw new FeelError(sprintf('The text holds the unknown escape \\%s.', $code), $at, $at + strlen($quoted), '\\n, \\t, \\r, \\", \\\\ or \\uXXXX'),
            };
        }, $inner);

        return (string) $text;
    }

    private function character(string $hex, int $at, string $quoted): string
    {
        $character = mb_chr((int) hexdec($hex), 'UTF-8');

        return is_string($character) ? $character : throw new FeelError(sprintf('There is no character %s.', strtoupper($hex)), $at, $at + strlen($quoted));
    }
}
