<?php

declare(strict_types=1);

namespace Sorvel\App\Outbox;

use Doctrine\ORM\EntityManagerInterface;
use Psr\Clock\ClockInterface;
use Psr\Log\LoggerInterface;
use Sorvel\App\Desk\Desk;
use Symfony\Component\DependencyInjection\Attribute\Autowire;
use Symfony\Component\Mailer\Exception\TransportExceptionInterface;
use Symfony\Component\Mailer\MailerInterface;
use Symfony\Component\Mime\Address as MailAddress;
use Symfony\Component\Mime\Email;
use Symfony\Component\Mime\Exception\ExceptionInterface as MimeException;

/** Sends what waits in the outbox, with patience; what comes of a call is an event on its record. */
final class Sender
{
    /** Seconds until the next try, by try; after the last it is given up. */
    private const AGAIN = ['call' => [5, 30, 120], 'mail' => [10, 60, 300, 1800, 7200]];

    public function __construct(
        private readonly Outbox $outbox,
        private readonly Caller $caller,
        private readonly MailerInterface $mailer,
        private readonly Desk $desk,
        private readonly EntityManagerInterface $entities,
        private readonly ClockInterface $clock,
        private readonly LoggerInterface $logger,
        #[Autowire('%env(default:sorvel.mail_from:SORVEL_MAIL_FROM)%')] private readonly string $from,
        #[Autowire('%env(float:default:sorvel.patience:SORVEL_PATIENCE)%')] private readonly float $patience,
    ) {
    }

    /** Sends the next one that is due; false when there is none. */
    public function next(): bool
    {
        $outgoing = $this->outbox->claim($this->clock->now());
        if ($outgoing === null) {
            return false;
        }
        $this->send($outgoing);
        $this->entities->clear();

        return true;
    }

    private function send(Outgoing $outgoing): void
    {
        $answer = $outgoing->kind === 'mail' ? $this->mail($outgoing) : $this->caller->call($outgoing);
        $now = $this->clock->now();
        $wait = $answer->mayPass ? self::AGAIN[$outgoing->kind][$outgoing->tries - 1] ?? null : null;
        if ($answer->problem !== '' && $wait !== null) {
            $this->outbox->postpone($outgoing, $answer->status, $answer->problem, $now->modify(sprintf('+%d milliseconds', (int) round($wait * 1000 * $this->patience))));

            return;
        }
        $this->conclude($outgoing, $answer, $now);
    }

    /** What came of it, and the event that follows, in one transaction: neither is there without the other. */
    public function conclude(Outgoing $outgoing, Answer $answer, \DateTimeImmutable $now): bool
    {
        return $this->desk->atOnce(function () use ($outgoing, $answer, $now): bool {
            $stage = $answer->problem === '' ? Stage::Sent : Stage::Failed;
            if (! $this->outbox->finish($outgoing, $stage, $answer->status, $answer->body, $answer->problem, $now)) {
                return false;
            }
            if ($outgoing->kind === 'call' && $outgoing->record !== null) {
                $this->desk->answered($outgoing->record, $outgoing->name, $answer->status, $answer->data(), $now);
            }
            if ($stage === Stage::Failed && $outgoing->rule !== null) {
                $this->desk->tellOwner($outgoing->rule, $outgoing->record, sprintf('%s to %s did not go through: %s', $outgoing->kind === 'call' ? 'A call' : 'A message', $outgoing->name, $answer->problem), $now);
            }

            return true;
        });
    }

    /** As {@see conclude}, for one that has been given up too. */
    public function byHand(Outgoing $outgoing, Answer $answer, \DateTimeImmutable $now): void
    {
        $this->desk->atOnce(function () use ($outgoing, $answer, $now): void {
            $this->outbox->reopen($outgoing);
            $this->conclude($outgoing, $answer, $now);
        });
    }

    private function mail(Outgoing $outgoing): Answer
    {
        try {
            $email = (new Email)
                ->from(MailAddress::create($this->from))
                ->to(...$outgoing->texts('to'))
                ->subject($outgoing->text('subject'))
                ->text($outgoing->text('body'));
            $email->getHeaders()->addIdHeader('Message-ID', $outgoing->token.'@sorvel');
            $outgoing->record === null || $email->getHeaders()->addTextHeader('X-Sorvel-Record', $outgoing->record);
            $this->mailer->send($email);

            return new Answer(null, null, '', false);
        } catch (MimeException $wrong) {
            return new Answer(null, null, 'It cannot be sent: '.$wrong->getMessage(), false);
        } catch (TransportExceptionInterface $failure) {
            $this->logger->warning('A message did not go out: {why}', ['why' => $failure->getMessage()]);

            return new Answer(null, null, 'The mail server did not take it: '.$failure->getMessage(), true);
        }
    }
}
