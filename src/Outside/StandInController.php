<?php

declare(strict_types=1);

namespace Sorvel\App\Outside;

use Sorvel\App\Access\Anyone;
use Sorvel\App\Http\Problem;
use Symfony\Component\DependencyInjection\Attribute\Autowire;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** A simulated supplier's catalogue. It knows its customer by a token, and can be told to misbehave. */
#[Anyone]
final class StandInController
{
    public const TOKEN = 'Bearer tolvane-demo';

    private const SUPPLIERS = [
        ['BR-1001', 'Brackwater Rope', 'Saltmere', 9, true], ['BR-1002', 'Hollin Paints', 'Hollin', 5, true], ['BR-1003', 'Cinder & Vane Castings', 'Orrin', 21, true],
        ['BR-1004', 'Northlight Hydraulics', 'Tolvane', 12, true], ['BR-1005', 'Pennant Safety Stores', 'Saltmere', 3, true], ['BR-1006', 'Selkie Electrics', 'Brae End', 7, false],
        ['BR-1007', 'Tideway Linen', 'Tolvane', 4, true], ['BR-1008', 'Quern Bakery', 'Orrin', 1, true],
    ];

    public function __construct(#[Autowire('%env(default::SORVEL_STAND_IN)%')] private readonly ?string $standIn)
    {
    }

    #[Route('/api/stand-in/suppliers', methods: ['GET'])]
    public function suppliers(Request $request): Response
    {
        if ((string) $this->standIn === '') {
            throw new Problem(404, 'There is no stand-in here.');
        }
        $headers = ['Content-Type' => 'application/json'];
        switch ($request->query->getString('as')) {
            case 'slow': sleep(12);
                break;
            case 'failing': return new Response('{"error": "out of order"}', 503, $headers);
            case 'html': return new Response('<!doctype html><title>Sign in</title><p>Please sign in.</p>', 200, ['Content-Type' => 'text/html']);
            case 'broken': return new Response('{"data": {"suppliers": [{"ref": ', 200, $headers);
            case 'elsewhere': return new Response('{"data": {"items": []}}', 200, $headers);
        }
        if ($request->headers->get('Authorization') !== self::TOKEN) {
            return new Response('{"error": "who are you?"}', 401, $headers);
        }
        $later = $request->query->getInt('later');
        $rows = array_map(fn (array $s): array => ['ref' => $s[0], 'name' => $s[1], 'address' => ['town' => $s[2], 'country' => 'Islands'], 'terms' => ['lead_days' => $s[3] + $later, 'approved' => $s[4]]], self::SUPPLIERS);

        return new Response((string) json_encode(['as_of' => '2026-11-01', 'data' => ['suppliers' => array_slice($rows, $later)]]), 200, $headers);
    }
}
