<?php

declare(strict_types=1);

namespace Sorvel\App\Desk;

use Doctrine\ORM\Mapping as ORM;

/** The number that a field of a record holds; beside it what {@see IndexText} says. */
#[ORM\Entity]
#[ORM\Table(name: 'record_number')]
#[ORM\Index(name: 'record_number_value', columns: ['slot', 'value', 'n', 'kind'])]
class IndexNumber
{
    #[ORM\Id]
    #[ORM\Column(options: ['unsigned' => true])]
    public int $n;

    #[ORM\Id]
    #[ORM\Column(type: 'smallint', options: ['unsigned' => true])]
    public int $slot;

    #[ORM\Column(type: 'smallint', options: ['unsigned' => true])]
    public int $kind;

    #[ORM\Column]
    public float $value;
}
