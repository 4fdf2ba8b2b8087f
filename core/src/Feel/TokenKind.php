<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel;

enum TokenKind: string
{
    case Number = 'a number';
    case Text = 'a text';
    case Name = 'a name';
    case Keyword = 'a keyword';
    case Symbol = 'a sign';
    case End = 'the end of the formula';
}
