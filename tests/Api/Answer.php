<?php

declare(strict_types=1);

namespace Sorvel\Tests\Api;

final class Answer
{
    /** @param  array<string, list<string>>  $headers */
    public function __construct(public readonly int $status, public readonly string $body, public readonly array $headers)
    {
    }

    /** @return array<string, mixed> */
    public function json(): array
    {
        $data = json_decode($this->body, true);

        return is_array($data) ? $data : [];
    }

    /** @return array<string, string> details by pointer */
    public function errors(): array
    {
        return array_column($this->json()['errors'] ?? [], 'detail', 'pointer');
    }
}
