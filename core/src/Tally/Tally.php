<?php

declare(strict_types=1);

namespace Sorvel\Core\Tally;

use Sorvel\Core\Feel\Formula;

/** What a field counts, sums or otherwise makes of the records that refer to its own. */
final class Tally
{
    /**
     * @param  string  $of  type of the records that are counted
     * @param  string  $via  their reference to the record that has the tally
     * @param  string|null  $field  the field that is measured; null for a count
     * @param  Formula|null  $where  which of them count; all when left out
     * @param  string|null  $tree  the reference of a record to the one above it, when those below count too
     */
    public function __construct(
        public readonly string $of,
        public readonly string $via,
        public readonly Measure $measure,
        public readonly ?string $field,
        public readonly ?Formula $where,
        public readonly ?string $tree,
    ) {
    }
}
