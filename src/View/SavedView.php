<?php

declare(strict_types=1);

namespace Sorvel\App\View;

use Doctrine\ORM\Mapping as ORM;

/** A list of tickets as somebody likes to see it: filters, order and columns, kept as the address of the page holds them. */
#[ORM\Entity]
#[ORM\Table(name: 'saved_view')]
#[ORM\Index(name: 'saved_view_person', columns: ['person'])]
class SavedView
{
    #[ORM\Id]
    #[ORM\GeneratedValue]
    #[ORM\Column]
    private ?int $id = null; // @phpstan-ignore property.unusedType (Doctrine gives it)

    #[ORM\Column(length: 60)]
    private string $person;

    #[ORM\Column(length: 80)]
    private string $name;

    #[ORM\Column(length: 8000)]
    private string $query;

    #[ORM\Column]
    private bool $shared;

    public function __construct(string $person, string $name, string $query, bool $shared)
    {
        $this->person = $person;
        $this->become($name, $query, $shared);
    }

    public function become(string $name, string $query, bool $shared): void
    {
        $this->name = $name;
        $this->query = $query;
        $this->shared = $shared;
    }

    public function person(): string
    {
        return $this->person;
    }

    /** @return array<string, mixed> as the API shows it */
    public function toArray(string $to): array
    {
        return ['view' => $this->id, 'name' => $this->name, 'query' => $this->query, 'shared' => $this->shared, 'by' => $this->person, 'own' => $this->person === $to];
    }
}
