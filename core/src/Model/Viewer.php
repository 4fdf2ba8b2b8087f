<?php

declare(strict_types=1);

namespace Sorvel\Core\Model;

/** Who looks: the desk, the store and the notes of one event. */
final class Viewer
{
    public function __construct(public readonly Rulebook $rulebook, public readonly RecordStore $store, public readonly Reads $reads = new Reads)
    {
    }
}
