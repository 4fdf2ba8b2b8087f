<?php

declare(strict_types=1);

namespace Sorvel\Core\Rule;

use Sorvel\Core\Feel\Values;
use Sorvel\Core\Model\Rulebook;

/** `{call: KEY, endpoint: URL, method: POST, headers: {}}`: its cell is the JSON body; null calls nobody. What comes back is an `answered` event. */
final class CallChange implements ActionChange
{
    public const METHODS = ['POST', 'PUT', 'PATCH', 'GET', 'DELETE'];

    /** @param  array<string, string>  $headers */
    public function __construct(public readonly string $key, private readonly string $endpoint, private readonly string $method, private readonly array $headers)
    {
    }

    public function kind(): string
    {
        return 'call';
    }

    public function action(mixed $cell, \Closure $value, Rulebook $rulebook): ?array
    {
        return $cell === null ? null : ['call' => $this->key, 'endpoint' => $this->endpoint, 'method' => $this->method, 'headers' => $this->headers, 'body' => json_decode((string) json_encode(Values::json($cell)), true)];
    }

    public function formulas(): array
    {
        return [];
    }
}
