<?php

declare(strict_types=1);

namespace Sorvel\App\Inbox;

use Doctrine\DBAL\Connection;
use Sorvel\App\Desk\Desk;
use Sorvel\App\Http\Body;
use Sorvel\App\Http\Problem;
use Sorvel\App\People\Role;
use Sorvel\Core\Engine\Message;
use Sorvel\Core\Model\RecordType;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\Routing\Attribute\Route;
use Symfony\Component\Security\Http\Attribute\IsGranted;

/** Messages that come in: here any program that receives mail hands them over, and the stand-in mailbox does so too. */
#[IsGranted(Role::AGENT)]
final class InboxController
{
    private const MOST = 500_000;

    public function __construct(private readonly Desk $desk, private readonly Connection $database)
    {
    }

    #[Route('/api/messages', methods: ['POST'])]
    public function receive(Request $request): JsonResponse
    {
        $body = Body::of($request);
        $from = trim($body->text('from'));
        $errors = [];
        if (filter_var($from, FILTER_VALIDATE_EMAIL) === false) {
            $errors[] = ['pointer' => '/from', 'detail' => 'This is not an address.'];
        }
        $subject = trim((string) preg_replace('~[\x00-\x1f\x7f]+~', ' ', $body->textOrNull('subject') ?? ''));
        [$text, $html] = [$body->textOrNull('text'), $body->textOrNull('html')];
        foreach (['subject' => $subject, 'text' => $text ?? '', 'html' => $html ?? ''] as $key => $value) {
            if (! mb_check_encoding($value, 'UTF-8') || strlen($value) > self::MOST) {
                $errors[] = ['pointer' => '/'.$key, 'detail' => 'It must be UTF-8, of at most 500 kB.'];
            }
        }
        [$about, $opens] = [$body->textOrNull('about'), $body->textOrNull('opens')];
        // an answer names the ticket that it is about in its subject
        $about ??= $this->named($subject);
        if ($about === null && $opens === null) {
            $errors[] = ['pointer' => '/opens', 'detail' => 'Nothing says which ticket it is about, so say which type of ticket it opens.'];
        }
        $types = $this->desk->rulebook()->types;
        if ($about === null && $opens !== null && ($types[$opens] ?? null)?->isTicket !== true) {
            $errors[] = ['pointer' => '/opens', 'detail' => sprintf('"%s" is not a ticket type; there are: %s.', mb_strimwidth($opens, 0, 40, '…'), implode(', ', array_keys(array_filter($types, fn (RecordType $t): bool => $t->isTicket))))];
        }
        if ($errors !== []) {
            throw new Problem(422, 'The message was not taken.', 'Nothing was saved.', $errors);
        }
        if ($about !== null) {
            $this->desk->ticket($about);
        }
        $saved = $this->desk->receive(new Message($from, $subject, $text, $html), $about, $opens);

        return new JsonResponse(['ticket' => $saved->stored->toArray(), 'run' => $saved->run->toArray(), 'opened' => $about === null], 201);
    }

    /** The ticket that a subject names: its number as a word of its own. */
    private function named(string $subject): ?string
    {
        preg_match_all('~(?<![\w-])([A-Z][A-Z0-9]{0,9}-\d{1,9})(?![\w-])~', $subject, $found);
        foreach (array_slice(array_unique($found[1]), 0, 5) as $id) {
            if ($this->database->fetchOne('SELECT 1 FROM record WHERE id = ? AND ticket = 1', [$id]) !== false) {
                return $id;
            }
        }

        return null;
    }

    #[Route('/api/messages', methods: ['GET'])]
    public function list(Request $request): JsonResponse
    {
        $before = $request->query->getInt('before', PHP_INT_MAX);
        $rows = $this->database->fetchAllAssociative('SELECT i.*, r.name FROM incoming i LEFT JOIN record r ON r.id = i.record WHERE i.id < ? ORDER BY i.id DESC LIMIT 51', [$before]);
        $text = fn (mixed $v): string => is_scalar($v) ? (string) $v : '';
        $messages = array_map(fn (array $r): array => [
            'message' => (int) $text($r['id']), 'from' => $text($r['sender']), 'subject' => $text($r['subject']), 'text' => mb_strimwidth($text($r['text']), 0, 4000, '…'), 'at' => (new \DateTimeImmutable($text($r['at'])))->format(\DATE_ATOM),
            'record' => $text($r['record']), 'name' => $r['name'], 'opened' => $text($r['opened']) === '1', 'person' => $r['person'],
        ], array_slice($rows, 0, 50));

        return new JsonResponse(['messages' => $messages, 'next' => count($rows) > 50 ? $messages[49]['message'] : null]);
    }
}
