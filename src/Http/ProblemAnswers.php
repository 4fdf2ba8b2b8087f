<?php

declare(strict_types=1);

namespace Sorvel\App\Http;

use Psr\Log\LoggerInterface;
use Symfony\Component\EventDispatcher\Attribute\AsEventListener;
use Symfony\Component\HttpKernel\Event\ExceptionEvent;
use Symfony\Component\HttpKernel\Exception\HttpExceptionInterface;
use Symfony\Component\HttpKernel\KernelEvents;

/** Every failure under /api is answered with problem details; what was not foreseen is logged and not shown. */
#[AsEventListener(event: KernelEvents::EXCEPTION, priority: 0)]
final class ProblemAnswers
{
    public function __construct(private readonly LoggerInterface $logger)
    {
    }

    public function __invoke(ExceptionEvent $event): void
    {
        if (! str_starts_with($event->getRequest()->getPathInfo(), '/api/')) {
            return;
        }
        $error = $event->getThrowable();
        $problem = match (true) {
            $error instanceof Problem => $error,
            $error instanceof HttpExceptionInterface => new Problem($error->getStatusCode(), match ($error->getStatusCode()) {
                404 => 'There is nothing at this address.', 405 => 'This address does not take this method.', 400 => 'The request could not be read.', default => 'The request was turned down.'
            }, $error->getStatusCode() === 400 ? $error->getMessage() : ''),
            default => null,
        };
        if ($problem === null) {
            $this->logger->error('Unforeseen: {message}', ['message' => $error->getMessage(), 'exception' => $error]);
            $problem = new Problem(500, 'Something went wrong on the server.', 'Nothing was saved. It has been logged; try again, and tell the administrator if it stays.');
        }
        $event->setResponse($problem->response());
    }
}
