<?php

declare(strict_types=1);

namespace Sorvel\App\Desk;

use Doctrine\ORM\Mapping as ORM;

/** The last number given to a record of a type. */
#[ORM\Entity]
#[ORM\Table(name: 'record_counter')]
class RecordCounter
{
    #[ORM\Id]
    #[ORM\Column(length: 60)]
    public string $type;

    #[ORM\Column]
    public int $last;
}
