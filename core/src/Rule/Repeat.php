<?php

declare(strict_types=1);

namespace Sorvel\Core\Rule;

/** How often a rule acts on the same record. */
enum Repeat: string
{
    /** Every time it is due. */
    case Each = 'each';
    /** When its condition and the row did not hold before the event. */
    case BecomesTrue = 'becomes_true';
    /** Once for each record, ever. */
    case Once = 'once';
}
