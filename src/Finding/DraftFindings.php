<?php

declare(strict_types=1);

namespace Sorvel\App\Finding;

use Doctrine\ORM\EntityManagerInterface;
use Sorvel\App\Draft\Draft;
use Sorvel\Core\Finding\Finding;
use Sorvel\Core\Finding\Findings;
use Sorvel\Core\Finding\Weight;

/** What the checker says about the draft, with what has been accepted. */
final class DraftFindings
{
    public function __construct(private readonly Draft $draft, private readonly EntityManagerInterface $entities)
    {
    }

    /** @return list<Finding> */
    public function all(): array
    {
        return Findings::of($this->draft->tree(), $this->draft->samples());
    }

    /** @return array<string, AcceptedFinding> by the finding's id */
    public function accepted(): array
    {
        $accepted = [];
        foreach ($this->entities->getRepository(AcceptedFinding::class)->findAll() as $one) {
            $accepted[$one->id()] = $one;
        }

        return $accepted;
    }

    /** @return list<Finding> those that stand in the way of an edition */
    public function blocking(): array
    {
        $accepted = $this->accepted();

        return array_values(array_filter($this->all(), fn (Finding $f): bool => $f->weight === Weight::Blocking && ! isset($accepted[$f->id])));
    }
}
