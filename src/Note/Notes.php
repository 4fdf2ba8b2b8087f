<?php

declare(strict_types=1);

namespace Sorvel\App\Note;

use Doctrine\ORM\EntityManagerInterface;
use Psr\Clock\ClockInterface;
use Sorvel\App\Http\Problem;

final class Notes
{
    public function __construct(private readonly EntityManagerInterface $entities, private readonly ClockInterface $clock)
    {
    }

    /** @return list<array<string, mixed>> newest first, as the API shows them */
    public function of(string $record, bool $requesterOnly = false): array
    {
        $notes = $this->entities->getRepository(Note::class)->findBy(['record' => $record, ...($requesterOnly ? ['readers' => Readers::Requester] : [])], ['id' => 'DESC'], 200);

        return array_values(array_map(fn (Note $note): array => $note->toArray(), $notes));
    }

    public function add(string $record, string $for, string $text, string $by): Note
    {
        $readers = Readers::tryFrom($for) ?? throw new Problem(422, 'The note was not kept.', '', [['pointer' => '/for', 'detail' => 'A note is for "staff" or for the "requester".']]);
        $text = trim($text);
        if ($text === '' || mb_strlen($text) > Note::MAX || ! mb_check_encoding($text, 'UTF-8')) {
            throw new Problem(422, 'The note was not kept.', '', [['pointer' => '/text', 'detail' => $text === '' ? 'A note has at least one character.' : sprintf('A note has at most %s characters.', number_format(Note::MAX))]]);
        }
        $note = new Note($record, $readers, $by, $this->clock->now(), $text);
        $this->entities->persist($note);
        $this->entities->flush();

        return $note;
    }
}
