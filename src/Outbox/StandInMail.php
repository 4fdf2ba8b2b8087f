<?php

declare(strict_types=1);

namespace Sorvel\App\Outbox;

use Symfony\Component\Mailer\Exception\UnsupportedSchemeException;
use Symfony\Component\Mailer\Transport\AbstractTransportFactory;
use Symfony\Component\Mailer\Transport\Dsn;
use Symfony\Component\Mailer\Transport\TransportInterface;

/** `stand-in://default`: messages go into a mailbox that ships with the product, and to nobody. */
final class StandInMail extends AbstractTransportFactory
{
    public function __construct(private readonly StandInBox $box)
    {
        parent::__construct();
    }

    public function create(Dsn $dsn): TransportInterface
    {
        return $dsn->getScheme() === 'stand-in' ? new StandInMailTransport($this->box) : throw new UnsupportedSchemeException($dsn, 'stand-in', $this->getSupportedSchemes());
    }

    /** @return list<string> */
    protected function getSupportedSchemes(): array
    {
        return ['stand-in'];
    }
}
