<?php

declare(strict_types=1);

namespace Sorvel\App\Edition;

use Doctrine\ORM\Mapping as ORM;

/** A numbered, immutable snapshot of the whole rulebook and its samples in the open format. */
#[ORM\Entity]
#[ORM\Table(name: 'edition')]
class Edition
{
    #[ORM\Id]
    #[ORM\Column]
    private int $number;

    #[ORM\Column(type: 'text')]
    private string $note;

    #[ORM\Column(length: 60, nullable: true)]
    private ?string $publishedBy;

    #[ORM\Column]
    private \DateTimeImmutable $publishedAt;

    /** @var array<string, mixed> */
    #[ORM\Column(type: 'json')]
    private array $rulebook;

    /** @var list<array<string, mixed>> */
    #[ORM\Column(type: 'json')]
    private array $samples;

    /** @var list<array{kind: string, key: string, title: string, what: string}> */
    #[ORM\Column(type: 'json')]
    private array $changes;

    /** @var array<string, int>|null */
    #[ORM\Column(type: 'json', nullable: true)]
    private ?array $replay = null;

    /** @var array{reason: string, samples: list<array<string, mixed>>, findings: list<array<string, mixed>>}|null what stood in the way, and why it was published all the same */
    #[ORM\Column(type: 'json', nullable: true)]
    private ?array $overridden;

    /** The earlier edition that it goes back to. */
    #[ORM\Column(nullable: true)]
    private ?int $backTo;

    /**
     * @param  array<string, mixed>  $rulebook
     * @param  list<array<string, mixed>>  $samples
     * @param  list<array{kind: string, key: string, title: string, what: string}>  $changes
     * @param  array{reason: string, samples: list<array<string, mixed>>, findings: list<array<string, mixed>>}|null  $overridden
     */
    public function __construct(int $number, string $note, ?string $by, \DateTimeImmutable $at, array $rulebook, array $samples, array $changes, ?array $overridden = null, ?int $backTo = null)
    {
        $this->overridden = $overridden;
        $this->backTo = $backTo;
        $this->number = $number;
        $this->note = $note;
        $this->publishedBy = $by;
        $this->publishedAt = $at;
        $this->rulebook = $rulebook;
        $this->samples = $samples;
        $this->changes = $changes;
    }

    public function number(): int
    {
        return $this->number;
    }

    /** @return array<string, mixed> */
    public function rulebook(): array
    {
        return $this->rulebook;
    }

    /** @return list<array<string, mixed>> */
    public function samples(): array
    {
        return $this->samples;
    }

    /** @param  array{agrees: int, differs: int, broken: int}  $totals */
    public function replayed(array $totals): void
    {
        $this->replay = $totals;
    }

    /** @return array<string, mixed> as the API shows it */
    public function toArray(): array
    {
        return ['number' => $this->number, 'note' => $this->note, 'published_by' => $this->publishedBy, 'published_at' => $this->publishedAt->format(\DATE_ATOM), 'changes' => $this->changes, 'replay' => $this->replay, 'overridden' => $this->overridden, 'back_to' => $this->backTo];
    }
}
