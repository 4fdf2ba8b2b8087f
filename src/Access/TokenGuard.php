<?php

declare(strict_types=1);

namespace Sorvel\App\Access;

use Sorvel\App\Http\Problem;
use Sorvel\App\Machine\ByToken;
use Symfony\Component\EventDispatcher\Attribute\AsEventListener;
use Symfony\Component\HttpKernel\Event\RequestEvent;
use Symfony\Component\HttpKernel\KernelEvents;

/** Turns down every request that would change something and does not carry the session's token. */
#[AsEventListener(event: KernelEvents::REQUEST, priority: 16)]
final class TokenGuard
{
    public function __construct(private readonly Token $token)
    {
    }

    public function __invoke(RequestEvent $event): void
    {
        $request = $event->getRequest();
        if (! $event->isMainRequest() || $request->isMethodSafe() || ! str_starts_with($request->getPathInfo(), '/api/')) {
            return;
        }
        // the stand-ins act for nobody, so that nothing is gained by sending them something
        if (str_starts_with($request->getPathInfo(), '/api/stand-in/')) {
            return;
        }
        // a form of another site can send neither of these
        $readable = $request->getPathInfo() === '/api/imports' ? ['json', 'csv'] : ['json'];
        $isLines = $request->getPathInfo() === '/api/past.jsonl' && $request->headers->get('Content-Type') === 'application/jsonl';
        if ($request->getMethod() !== 'DELETE' && ! $isLines && ! in_array($request->getContentTypeFormat(), $readable, true)) {
            throw new Problem(415, 'Only JSON is read here.', 'Send the header Content-Type: application/json.');
        }
        // no browser sends this header by itself
        if (ByToken::carriesOne($request)) {
            return;
        }
        if (! $this->token->fits((string) $request->headers->get(Token::HEADER))) {
            throw new Problem(403, 'The request does not carry this session\'s token.', 'Read the token with GET /api/session and send it in the header '.Token::HEADER.'; in the browser, reload the page.');
        }
    }
}
