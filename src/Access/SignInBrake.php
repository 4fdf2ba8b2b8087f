<?php

declare(strict_types=1);

namespace Sorvel\App\Access;

use Doctrine\ORM\EntityManagerInterface;
use Psr\Clock\ClockInterface;
use Symfony\Component\EventDispatcher\Attribute\AsEventListener;
use Symfony\Component\HttpFoundation\RequestStack;
use Symfony\Component\Security\Http\Authenticator\Passport\Badge\UserBadge;
use Symfony\Component\Security\Http\Event\CheckPassportEvent;
use Symfony\Component\Security\Http\Event\LoginFailureEvent;
use Symfony\Component\Security\Http\Event\LoginSuccessEvent;

/** Slows sign-ins down after failures for one address from one place. */
final class SignInBrake
{
    public function __construct(
        private readonly EntityManagerInterface $entities,
        private readonly RequestStack $requests,
        private readonly ClockInterface $clock,
    ) {
    }

    #[AsEventListener(priority: 2000)]
    public function check(CheckPassportEvent $event): void
    {
        $badge = $event->getPassport()->getBadge(UserBadge::class);
        if (! $badge instanceof UserBadge) {
            return;
        }
        $this->requests->getMainRequest()?->attributes->set('sign_in_id', $this->id($badge->getUserIdentifier()));
        $wait = $this->attempt()?->wait($this->now()) ?? 0;
        if ($wait > 0) {
            throw new TooManySignIns($wait);
        }
    }

    #[AsEventListener]
    public function failed(LoginFailureEvent $event): void
    {
        $id = $this->currentId();
        if ($id === null || $event->getException() instanceof TooManySignIns) {
            return;
        }
        $attempt = $this->attempt() ?? new SignInAttempt($id);
        $attempt->fail($this->now());
        $this->entities->persist($attempt);
        $this->entities->flush();
    }

    #[AsEventListener]
    public function signedIn(LoginSuccessEvent $event): void
    {
        $attempt = $this->attempt();
        if ($attempt !== null) {
            $this->entities->remove($attempt);
            $this->entities->flush();
        }
    }

    private function attempt(): ?SignInAttempt
    {
        $id = $this->currentId();

        return $id === null ? null : $this->entities->find(SignInAttempt::class, $id);
    }

    private function currentId(): ?string
    {
        $id = $this->requests->getMainRequest()?->attributes->get('sign_in_id');

        return is_string($id) ? $id : null;
    }

    private function id(string $email): string
    {
        return hash('sha256', mb_strtolower($email).'|'.$this->requests->getMainRequest()?->getClientIp());
    }

    private function now(): int
    {
        return $this->clock->now()->getTimestamp();
    }
}
