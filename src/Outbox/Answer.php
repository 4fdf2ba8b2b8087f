<?php

declare(strict_types=1);

namespace Sorvel\App\Outbox;

/** What came back from a call, or why nothing did. */
final class Answer
{
    /**
     * @param  int|null  $status  null when there was no answer
     * @param  string  $problem  why it is not a good answer; empty when it is
     * @param  bool  $mayPass  whether it may be better another time
     */
    public function __construct(public readonly ?int $status, public readonly ?string $body, public readonly string $problem, public readonly bool $mayPass)
    {
    }

    /** As a formula sees it: data where it is JSON, else the text. */
    public function data(): mixed
    {
        return $this->body === null ? null : (json_decode($this->body, true, 64) ?? $this->body);
    }
}
