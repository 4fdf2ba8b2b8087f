<?php

declare(strict_types=1);

namespace Sorvel\App\Outbox;

use Sorvel\App\Access\Anyone;
use Sorvel\App\Http\Problem;
use Symfony\Component\DependencyInjection\Attribute\Autowire;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\HttpFoundation\StreamedResponse;
use Symfony\Component\Routing\Attribute\Route;

/** A simulated yard that takes orders. It keeps each order once, and misbehaves as the order's own note asks. */
#[Anyone]
final class StandInController
{
    public function __construct(private readonly StandInBox $box, #[Autowire('%env(default::SORVEL_STAND_IN)%')] private readonly ?string $standIn)
    {
    }

    #[Route('/api/stand-in/calls/{call}', methods: ['POST'])]
    public function take(string $call, Request $request): Response
    {
        if ((string) $this->standIn === '') {
            throw new Problem(404, 'There is no stand-in here.');
        }
        $headers = ['Content-Type' => 'application/json'];
        $data = json_decode($request->getContent(), true);
        $note = is_array($data) && is_string($data['note'] ?? null) ? $data['note'] : '';
        preg_match('~\bstand-in: ([a-z-]+)(?: (\d{1,2}))?~', $note, $asked);
        switch ($asked[1] ?? '') {
            case 'slow': sleep((int) ($asked[2] ?? 25));
                break;
            case 'busy': return new Response('{"why": "the yard is busy"}', 503, $headers);
            case 'unknown': return new Response('{"why": "no such berth"}', 404, $headers);
            case 'elsewhere': return new Response('', 302, ['Location' => 'http://127.0.0.1/']);
            case 'endless': return new StreamedResponse(function (): void {
                for ($i = 0; $i < 4000 && connection_aborted() === 0; $i++) {
                    echo str_repeat('x', 1000);
                    flush();
                }
            }, 200, $headers);
        }
        $token = (string) $request->headers->get('Idempotency-Key');
        if ($token === '') {
            return new Response('{"why": "an order needs an Idempotency-Key"}', 400, $headers);
        }
        $times = $this->box->take($token, 'call', $call, ['to' => $request->query->getString('to'), 'body' => $data]);

        return new Response((string) json_encode(['number' => 'Y-'.substr(hash('xxh32', $token), 0, 6), 'again' => $times > 1]), 201, $headers);
    }
}
