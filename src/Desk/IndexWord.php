<?php

declare(strict_types=1);

namespace Sorvel\App\Desk;

use Doctrine\ORM\Mapping as ORM;

/** Keys of types and fields, by the small numbers that stand for them in the index. */
#[ORM\Entity]
#[ORM\Table(name: 'record_word')]
class IndexWord
{
    #[ORM\Id]
    #[ORM\GeneratedValue]
    #[ORM\Column(type: 'smallint', options: ['unsigned' => true])]
    public int $id;

    #[ORM\Column(length: 60, unique: true)]
    public string $word;
}
