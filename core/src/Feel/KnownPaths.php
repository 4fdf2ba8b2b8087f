<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel;

/** Names and paths of a formula that can be read where they are stored. */
interface KnownPaths
{
    /** @return string|null the source of an expression that comes to the same as the path; null when there is none */
    public function value(Node $node): ?string;

    /** @return string|null the source of an expression that comes to a text or null, and equals what the path equals; null when there is none */
    public function word(Node $node): ?string;

    /**
     * @param  list<string>  $arguments  their sources
     * @return string|null the source of what a function gives that belongs to the event: now(), today(), open(); null when the name means something else, or it takes more
     */
    public function ofTheEvent(string $function, array $arguments): ?string;
}
