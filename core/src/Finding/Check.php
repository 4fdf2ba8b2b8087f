<?php

declare(strict_types=1);

namespace Sorvel\Core\Finding;

/** Looks for one kind of thing. One file a check, listed in {@see Findings}. */
interface Check
{
    /** @return iterable<Finding> */
    public function look(Book $book): iterable;
}
