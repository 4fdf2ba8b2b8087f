<?php

declare(strict_types=1);

namespace Sorvel\App\Http;

use Symfony\Component\EventDispatcher\Attribute\AsEventListener;
use Symfony\Component\HttpKernel\Event\ResponseEvent;
use Symfony\Component\HttpKernel\KernelEvents;

/** Headers of every answer that PHP gives; nginx sets the same on files (config/nginx.conf). */
#[AsEventListener(event: KernelEvents::RESPONSE)]
final class SecurityHeaders
{
    public function __invoke(ResponseEvent $event): void
    {
        $headers = $event->getResponse()->headers;
        $headers->set('Content-Security-Policy', "default-src 'none'; frame-ancestors 'none'");
        $headers->set('X-Content-Type-Options', 'nosniff');
        $headers->set('Referrer-Policy', 'no-referrer');
        $headers->set('Cache-Control', 'no-store, private');
    }
}
