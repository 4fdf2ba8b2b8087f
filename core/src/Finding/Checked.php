<?php

declare(strict_types=1);

namespace Sorvel\Core\Finding;

use Sorvel\Core\Feel\FeelError;

/** What the look over a formula found. */
final class Checked
{
    /**
     * @param  list<FeelError>  $errors  with offsets into the formula
     * @param  list<Mention>  $mentions
     */
    public function __construct(public readonly KnownType $type, public readonly array $errors, public readonly array $mentions)
    {
    }
}
