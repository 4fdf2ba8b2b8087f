<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel;

/**
 * A formula that cannot be understood: what is wrong, where (byte offsets into the source), and what would fit there.
 */
final class FeelError extends \RuntimeException
{
    public function __construct(
        string $message,
        public readonly int $from,
        public readonly int $to,
        public readonly ?string $expected = null,
        public readonly bool $unsupported = false,
    ) {
        parent::__construct($message);
    }

    /** @return array{message: string, from: int, to: int, expected: ?string} */
    public function toArray(): array
    {
        return ['message' => $this->getMessage(), 'from' => $this->from, 'to' => $this->to, 'expected' => $this->expected];
    }
}
