<?php

declare(strict_types=1);

namespace Sorvel\App\Note;

/** Whom a note is for. */
enum Readers: string
{
    case Staff = 'staff';
    case Requester = 'requester';
}
