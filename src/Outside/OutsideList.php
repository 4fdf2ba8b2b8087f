<?php

declare(strict_types=1);

namespace Sorvel\App\Outside;

use Doctrine\ORM\Mapping as ORM;

/** A register that is fed from a JSON source over HTTP. */
#[ORM\Entity]
#[ORM\Table(name: 'outside_list')]
class OutsideList
{
    /** The register's key */
    #[ORM\Id]
    #[ORM\Column(length: 60)]
    private string $type;

    #[ORM\Column(length: 500)]
    private string $address;

    /** Path to the rows */
    #[ORM\Column(name: 'rows_path', length: 200)]
    private string $rows;

    /** @var array<string, string> path in a row by field */
    #[ORM\Column(type: 'json')]
    private array $paths;

    #[ORM\Column(name: 'key_field', length: 60)]
    private string $key;

    /** Minutes between two refreshes */
    #[ORM\Column(name: 'every_minutes')]
    private int $every;

    /** Whether it may be on this network */
    #[ORM\Column]
    private bool $inside;

    #[ORM\Column(length: 2000, nullable: true)]
    private ?string $credentials = null;

    /** Counts up with every change, so that a refresh planned before it does nothing */
    #[ORM\Column]
    private int $plan = 0;

    #[ORM\Column(nullable: true)]
    private ?\DateTimeImmutable $triedAt = null;

    #[ORM\Column(nullable: true)]
    private ?\DateTimeImmutable $goodAt = null;

    #[ORM\Column(nullable: true)]
    private ?\DateTimeImmutable $nextAt = null;

    #[ORM\Column(length: 1000)]
    private string $problem = '';

    #[ORM\Column(length: 64)]
    private string $fingerprint = '';

    /** Rows in the last good answer */
    #[ORM\Column]
    private int $listed = 0;

    /** Records of the register that the last good answer did not list */
    #[ORM\Column]
    private int $unlisted = 0;

    public function __construct(string $type)
    {
        $this->type = $type;
    }

    /** @param  array<string, string>  $paths */
    public function become(string $address, string $rows, array $paths, string $key, int $every, bool $inside): void
    {
        [$this->address, $this->rows, $this->paths, $this->key, $this->every, $this->inside] = [$address, $rows, $paths, $key, $every, $inside];
        $this->plan++;
        $this->fingerprint = '';
    }

    public function takeCredentials(?string $encrypted): void
    {
        $this->credentials = $encrypted;
    }

    public function isPlanned(int $plan): bool
    {
        return $this->plan === $plan;
    }

    public function plan(\DateTimeImmutable $next): int
    {
        $this->nextAt = $next;

        return $this->plan;
    }

    /** The chain of refreshes has broken off: a worker was away, or its queue was emptied. */
    public function isOverdue(\DateTimeImmutable $now): bool
    {
        return $this->nextAt === null || $this->nextAt < $now->modify('-'.max(2, $this->every).' minutes');
    }

    public function failed(string $problem, \DateTimeImmutable $at): void
    {
        $this->problem = mb_strimwidth($problem, 0, 1000, '…');
        $this->triedAt = $at;
    }

    public function succeeded(\DateTimeImmutable $at, string $fingerprint, int $listed, int $unlisted): void
    {
        [$this->problem, $this->triedAt, $this->goodAt, $this->fingerprint, $this->listed, $this->unlisted] = ['', $at, $at, $fingerprint, $listed, $unlisted];
    }

    public function type(): string
    {
        return $this->type;
    }

    public function address(): string
    {
        return $this->address;
    }

    public function rows(): string
    {
        return $this->rows;
    }

    /** @return array<string, string> */
    public function paths(): array
    {
        return $this->paths;
    }

    public function key(): string
    {
        return $this->key;
    }

    public function every(): int
    {
        return $this->every;
    }

    public function mayBeInside(): bool
    {
        return $this->inside;
    }

    public function credentials(): ?string
    {
        return $this->credentials;
    }

    public function fingerprint(): string
    {
        return $this->fingerprint;
    }

    /** @return array<string, mixed> as the API shows it; credentials never leave the server */
    public function toArray(): array
    {
        $at = fn (?\DateTimeImmutable $at): ?string => $at?->format(\DATE_ATOM);

        return ['type' => $this->type, 'address' => $this->address, 'rows' => $this->rows, 'paths' => (object) $this->paths, 'key' => $this->key, 'every' => $this->every, 'inside' => $this->inside, 'has_credentials' => $this->credentials !== null, 'tried_at' => $at($this->triedAt), 'good_at' => $at($this->goodAt), 'next_at' => $at($this->nextAt), 'problem' => $this->problem, 'listed' => $this->listed, 'unlisted' => $this->unlisted];
    }
}
