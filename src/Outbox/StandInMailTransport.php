<?php

declare(strict_types=1);

namespace Sorvel\App\Outbox;

use Symfony\Component\Mailer\SentMessage;
use Symfony\Component\Mailer\Transport\AbstractTransport;
use Symfony\Component\Mime\Email;

final class StandInMailTransport extends AbstractTransport
{
    public function __construct(private readonly StandInBox $box)
    {
        parent::__construct();
    }

    protected function doSend(SentMessage $message): void
    {
        $email = $message->getOriginalMessage();
        if ($email instanceof Email) {
            $token = strtok((string) $email->getHeaders()->get('Message-ID')?->getBodyAsString(), '@') ?: $message->getMessageId();
            $this->box->take(trim($token, '<>'), 'mail', implode(', ', array_map(fn ($a): string => $a->getAddress(), $email->getTo())), ['subject' => $email->getSubject(), 'body' => (string) $email->getTextBody()]);
        }
    }

    public function __toString(): string
    {
        return 'stand-in://default';
    }
}
