<?php

declare(strict_types=1);

namespace Sorvel\App\Work;

use Doctrine\ORM\Mapping as ORM;

/** Work that takes longer than anybody waits for, parted into chunks that workers share. It is done on the draft as it was when it was asked for. */
#[ORM\Entity]
#[ORM\Table(name: 'long_work')]
#[ORM\Index(name: 'long_work_of_kind', columns: ['kind', 'id'])]
class LongWork
{
    #[ORM\Id]
    #[ORM\GeneratedValue]
    #[ORM\Column]
    private ?int $id = null; // @phpstan-ignore property.unusedType (Doctrine gives it)

    #[ORM\Column(length: 20)]
    private string $kind;

    #[ORM\Column(name: 'person', length: 60, nullable: true)]
    private ?string $by;

    #[ORM\Column]
    private \DateTimeImmutable $at;

    /** Fingerprint of rulebook and samples. */
    #[ORM\Column(length: 32, options: ['fixed' => true])]
    private string $draft;

    /** @var array<string, mixed> */
    #[ORM\Column(type: 'json')]
    private array $rulebook;

    /** @var list<array<string, mixed>> */
    #[ORM\Column(type: 'json')]
    private array $samples;

    /** @var array<string, mixed> what was asked for, beside the kind */
    #[ORM\Column(type: 'json')]
    private array $asked;

    #[ORM\Column]
    private int $chunks = 0;

    #[ORM\Column]
    private bool $stopped = false;

    /**
     * @param  array<string, mixed>  $rulebook
     * @param  list<array<string, mixed>>  $samples
     * @param  array<string, mixed>  $asked
     */
    public function __construct(string $kind, ?string $by, \DateTimeImmutable $at, array $rulebook, array $samples, array $asked)
    {
        $this->kind = $kind;
        $this->by = $by;
        $this->at = $at;
        $this->rulebook = $rulebook;
        $this->samples = $samples;
        $this->asked = $asked;
        $this->draft = self::fingerprint($rulebook, $samples);
    }

    /**
     * @param  array<string, mixed>  $rulebook
     * @param  list<array<string, mixed>>  $samples
     */
    public static function fingerprint(array $rulebook, array $samples): string
    {
        return hash('xxh128', (string) json_encode([$rulebook, $samples]));
    }

    public function id(): int
    {
        return (int) $this->id;
    }

    public function kind(): string
    {
        return $this->kind;
    }

    public function by(): ?string
    {
        return $this->by;
    }

    public function at(): \DateTimeImmutable
    {
        return $this->at;
    }

    public function draft(): string
    {
        return $this->draft;
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

    /** @return array<string, mixed> */
    public function asked(): array
    {
        return $this->asked;
    }

    public function keeps(string $what, int $value): void
    {
        $this->asked = [...$this->asked, $what => $value];
    }

    public function chunks(): int
    {
        return $this->chunks;
    }

    public function isIn(int $chunks): void
    {
        $this->chunks = $chunks;
    }

    public function isStopped(): bool
    {
        return $this->stopped;
    }

    public function stop(bool $stopped): void
    {
        $this->stopped = $stopped;
    }
}
