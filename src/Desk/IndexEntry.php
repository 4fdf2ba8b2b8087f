<?php

declare(strict_types=1);

namespace Sorvel\App\Desk;

use Doctrine\ORM\Mapping as ORM;

/** One value of one field of one record, for look-ups, filters and sorting. Written with its record by {@see Records}. */
#[ORM\Entity]
#[ORM\Table(name: 'record_index')]
#[ORM\Index(name: 'record_index_text', columns: ['type', 'field', 'text_value', 'record'])]
#[ORM\Index(name: 'record_index_number', columns: ['type', 'field', 'number_value', 'record'])]
#[ORM\Index(name: 'record_index_record', columns: ['record', 'field'])]
class IndexEntry
{
    #[ORM\Id]
    #[ORM\GeneratedValue]
    #[ORM\Column(type: 'bigint')]
    public ?string $id = null;

    #[ORM\Column(length: 60)]
    public string $type;

    #[ORM\Column(length: 60)]
    public string $field;

    #[ORM\Column(length: 40)]
    public string $record;

    /** The first 190 characters of a text; a key; true or false */
    #[ORM\Column(name: 'text_value', length: 190, nullable: true)]
    public ?string $text;

    #[ORM\Column(name: 'number_value', type: 'decimal', precision: 46, scale: 12, nullable: true)]
    public ?string $number;
}
