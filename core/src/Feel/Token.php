<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel;

final class Token
{
    /** @param  string  $text the decoded value of a text, the source of anything else */
    public function __construct(
        public readonly TokenKind $kind,
        public readonly string $text,
        public readonly int $from,
        public readonly int $to,
    ) {
    }

    public function is(string $text): bool
    {
        return ($this->kind === TokenKind::Symbol || $this->kind === TokenKind::Keyword) && $this->text === $text;
    }

    public function describe(): string
    {
        return match ($this->kind) {
            TokenKind::End => 'the end of the formula',
            TokenKind::Text => 'the text "'.mb_strimwidth($this->text, 0, 30, '…').'"',
            default => '"'.mb_strimwidth($this->text, 0, 30, '…').'"',
        };
    }
}
