<?php

declare(strict_types=1);

namespace Sorvel\App\Access;

use Doctrine\ORM\Mapping as ORM;

/** Failed sign-ins for one address from one place; {@see SignInBrake} reads and writes it. */
#[ORM\Entity]
#[ORM\Table(name: 'sign_in_attempt')]
class SignInAttempt
{
    /** SHA-256 of email and client address */
    #[ORM\Id]
    #[ORM\Column(name: 'id', length: 64)]
    private string $id;

    #[ORM\Column]
    private int $failures = 0;

    /** Unix seconds */
    #[ORM\Column]
    private int $last = 0;

    public function __construct(string $id)
    {
        $this->id = $id;
    }

    public function id(): string
    {
        return $this->id;
    }

    /** Seconds to wait still: none for the first four failures, then 2, 4, 8 … up to 15 minutes. */
    public function wait(int $now): int
    {
        return $this->failures < 5 ? 0 : max(0, $this->last + min(900, 2 ** ($this->failures - 4)) - $now);
    }

    public function fail(int $now): void
    {
        $this->failures = $now - $this->last > 3600 ? 1 : $this->failures + 1;
        $this->last = $now;
    }
}
