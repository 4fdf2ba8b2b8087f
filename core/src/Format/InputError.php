<?php

declare(strict_types=1);

namespace Sorvel\Core\Format;

/** One thing wrong with an input: where, what, and how to mend it. */
final class InputError
{
    /**
     * @param  string  $path  JSON pointer (RFC 6901) into the input
     * @param  int|null  $from  byte offset within a formula, when the input there is one
     */
    public function __construct(
        public readonly string $path,
        public readonly string $message,
        public readonly ?string $file = null,
        public readonly ?int $line = null,
        public readonly ?int $from = null,
        public readonly ?int $to = null,
    ) {
    }

    public function in(string $file, ?int $line): self
    {
        return new self($this->path, $this->message, $file, $line, $this->from, $this->to);
    }

    public function __toString(): string
    {
        $place = $this->file === null ? '' : $this->file.($this->line === null ? '' : ':'.$this->line).': ';

        return $place.($this->path === '' ? '' : $this->path.': ').$this->message;
    }
}
