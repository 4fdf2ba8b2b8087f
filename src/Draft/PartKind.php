<?php

declare(strict_types=1);

namespace Sorvel\App\Draft;

/** The kinds of parts of a draft, by the name of their list in the format. */
enum PartKind: string
{
    case Desk = 'desk';
    case Types = 'types';
    case Tables = 'tables';
    case Rules = 'rules';
    case Guards = 'guards';
    case Mirrors = 'mirrors';
    case Samples = 'samples';

    /** The schema's name for one of them. */
    public function definition(): string
    {
        return match ($this) {
            self::Types => 'type', self::Tables => 'table', self::Rules => 'rule', self::Guards => 'guard', self::Mirrors => 'mirror', self::Samples => 'sample', self::Desk => throw new \LogicException('The desk has no definition of its own.')
        };
    }

    public function isEditable(): bool
    {
        return in_array($this, [self::Types, self::Tables, self::Rules, self::Guards, self::Mirrors, self::Samples], true);
    }

    public function one(): string
    {
        return match ($this) {
            self::Desk => 'desk', self::Types => 'type', self::Tables => 'table', self::Rules => 'rule', self::Guards => 'guard', self::Mirrors => 'mirror', self::Samples => 'sample'
        };
    }
}
