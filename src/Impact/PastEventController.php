<?php

declare(strict_types=1);

namespace Sorvel\App\Impact;

use Sorvel\App\Draft\Draft;
use Sorvel\App\Draft\PartKind;
use Sorvel\App\Edition\Editions;
use Sorvel\App\Http\Problem;
use Sorvel\App\People\Role;
use Sorvel\Core\Engine\TraceLevel;
use Sorvel\Core\Format\InvalidInput;
use Sorvel\Core\Impact\Impact;
use Sorvel\Core\Impact\NotRecorded;
use Sorvel\Core\Impact\PastEvent;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\Rulebook;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\StreamedResponse;
use Symfony\Component\Routing\Attribute\Route;
use Symfony\Component\Security\Http\Attribute\IsGranted;

/** Past events: one beside what the draft makes of it, as a sample; all of them as JSON lines, out and in. */
#[IsGranted(Role::BUILDER)]
final class PastEventController
{
    private const MOST_LINES = 100_000;

    public function __construct(private readonly PastEvents $events, private readonly Draft $draft, private readonly Editions $editions)
    {
    }

    /** How many there are, and since when. */
    #[Route('/api/past', methods: ['GET'])]
    public function extent(): JsonResponse
    {
        [$count] = $this->events->extent(null);

        return new JsonResponse(['count' => $count, 'since' => $count === 0 ? null : $this->events->since()]);
    }

    #[Route('/api/past.jsonl', methods: ['GET'], priority: 1)]
    public function lines(): StreamedResponse
    {
        return new StreamedResponse(function (): void {
            [, $first, $last] = $this->events->extent(null);
            foreach ($this->events->between($first, $last) as $event) {
                echo json_encode($event->toArray(), JSON_THROW_ON_ERROR | JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES)."\n";
            }
        }, 200, ['Content-Type' => 'application/jsonl', 'Content-Disposition' => 'attachment; filename="past.jsonl"']);
    }

    /** Brings in events of elsewhere, a line each; all of them or none. */
    #[Route('/api/past.jsonl', methods: ['POST'], priority: 1)]
    #[IsGranted(Role::PUBLISHER)]
    public function bringIn(Request $request): JsonResponse
    {
        $lines = $request->getContent(true);
        $kept = [];
        $number = 0;
        while (($line = fgets($lines)) !== false) {
            $number++;
            if (trim($line) === '') {
                continue;
            }
            $plain = json_decode($line, true, 64);
            try {
                $kept[] = [PastEvent::from(is_array($plain) ? $plain : throw new Problem(422, 'The events were not brought in.', 'Nothing was kept.', [['pointer' => '/'.$number, 'detail' => sprintf('Line %d is not a JSON object.', $number)]])), null];
            } catch (InvalidInput $invalid) {
                throw new Problem(422, 'The events were not brought in.', 'Nothing was kept.', [['pointer' => '/'.$number, 'detail' => sprintf('Line %d: %s', $number, $invalid->errors[0] ?? '')]]);
            }
            if (count($kept) > self::MOST_LINES) {
                throw new Problem(413, 'At most 100,000 events can be brought in at once.', 'Part the file.');
            }
        }
        $this->events->keep($kept);

        return new JsonResponse(['count' => count($kept)], 201);
    }

    /** One event, as it came out under the edition in force and as it would under the draft. */
    #[Route('/api/past/{number}', methods: ['GET'], requirements: ['number' => '\d{1,9}'])]
    public function compare(int $number): JsonResponse
    {
        $past = $this->find($number);
        $edition = $this->editions->rulebook();

        return new JsonResponse([
            'number' => $number, 'id' => $past->id, 'type' => $past->type, 'kind' => $past->kind, 'at' => $past->at, 'by' => $past->by, 'incoming' => (object) $past->values, 'after' => (object) $past->after,
            'edition' => $edition === null ? null : $this->side($past, $edition), 'draft' => $this->side($past, $this->draft->rulebook()),
        ]);
    }

    /** The event as a sample of the draft; nothing is saved. */
    #[Route('/api/past/{number}/sample', methods: ['GET'], requirements: ['number' => '\d{1,9}'])]
    public function sample(int $number): JsonResponse
    {
        $past = $this->find($number);
        $rulebook = $this->draft->rulebook();
        if (! isset($rulebook->types[$past->type])) {
            throw new Problem(409, sprintf('There is no type "%s" any more.', $past->type));
        }
        $base = 'past_'.strtolower((string) preg_replace('~[^A-Za-z0-9]+~', '_', $past->id));
        for ($key = $base, $i = 2; $this->draft->find(PartKind::Samples, $key) !== null; $i++) {
            $key = $base.'_'.$i;
        }

        return new JsonResponse(['tree' => SampleFromPast::tree($past, $rulebook, $key)]);
    }

    private function find(int $number): PastEvent
    {
        return $this->events->find($number) ?? throw new Problem(404, sprintf('There is no past event %d.', $number));
    }

    /** @return array{trace: array<string, mixed>|null, values: object, refused: list<array{field: string, reason: string}>, why: string|null} */
    private function side(PastEvent $past, Rulebook $rulebook): array
    {
        try {
            $outcome = (new Impact($rulebook))->outcome($past, TraceLevel::Full);
        } catch (NotRecorded|\OutOfBoundsException $gap) {
            return ['trace' => null, 'values' => (object) [], 'refused' => [], 'why' => $gap->getMessage()];
        }

        return ['trace' => $outcome->trace, 'values' => (object) Record::json($outcome->record->values), 'refused' => $outcome->refused, 'why' => null];
    }
}
