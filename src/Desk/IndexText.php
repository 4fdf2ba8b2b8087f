<?php

declare(strict_types=1);

namespace Sorvel\App\Desk;

use Doctrine\ORM\Mapping as ORM;

/** One text, key or truth that a field of a record holds, for look-ups, filters and sorting. Written by {@see RecordIndex}. */
#[ORM\Entity]
#[ORM\Table(name: 'record_text')]
#[ORM\Index(name: 'record_text_value', columns: ['slot', 'value', 'n', 'kind'])]
class IndexText
{
    /** The record's number in the database */
    #[ORM\Id]
    #[ORM\Column(options: ['unsigned' => true])]
    public int $n;

    /** The field, by its number among the words of the index */
    #[ORM\Id]
    #[ORM\Column(type: 'smallint', options: ['unsigned' => true])]
    public int $slot;

    /** Its place among several, from 0 */
    #[ORM\Id]
    #[ORM\Column(type: 'smallint', options: ['unsigned' => true])]
    public int $i;

    /** The type, by its number among the words of the index */
    #[ORM\Column(type: 'smallint', options: ['unsigned' => true])]
    public int $kind;

    /** At most the first 190 characters */
    #[ORM\Column(length: 190)]
    public string $value;
}
