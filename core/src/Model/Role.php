<?php

declare(strict_types=1);

namespace Sorvel\Core\Model;

/** What a person is on the desk; each may do what those before may. */
enum Role: string
{
    case Requester = 'requester';
    case Agent = 'agent';
    case Builder = 'builder';
    case Publisher = 'publisher';
    case Administrator = 'administrator';

    public function reaches(self $needed): bool
    {
        return array_search($this, self::cases(), true) >= array_search($needed, self::cases(), true);
    }

    /** @param  non-empty-array<self>  $roles */
    public static function least(array $roles): self
    {
        usort($roles, fn (self $a, self $b): int => array_search($a, self::cases(), true) <=> array_search($b, self::cases(), true));

        return $roles[0];
    }
}
