<?php

declare(strict_types=1);

namespace Sorvel\App\Finding;

use Doctrine\ORM\Mapping as ORM;

/** A finding that somebody has looked at and lets stand, with the reason. It holds as long as the finding stays the same. */
#[ORM\Entity]
#[ORM\Table(name: 'accepted_finding')]
class AcceptedFinding
{
    #[ORM\Id]
    #[ORM\Column(length: 20)]
    private string $id;

    #[ORM\Column(type: 'text')]
    private string $reason;

    #[ORM\Column(name: 'person', length: 60)]
    private string $by;

    #[ORM\Column]
    private \DateTimeImmutable $at;

    public function __construct(string $id, string $reason, string $by, \DateTimeImmutable $at)
    {
        $this->id = $id;
        $this->reason = $reason;
        $this->by = $by;
        $this->at = $at;
    }

    public function id(): string
    {
        return $this->id;
    }

    public function because(string $reason, string $by, \DateTimeImmutable $at): void
    {
        $this->reason = $reason;
        $this->by = $by;
        $this->at = $at;
    }

    /** @return array{reason: string, by: string, at: string} */
    public function toArray(): array
    {
        return ['reason' => $this->reason, 'by' => $this->by, 'at' => $this->at->format(\DATE_ATOM)];
    }
}
