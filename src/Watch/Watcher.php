<?php

declare(strict_types=1);

namespace Sorvel\App\Watch;

use Doctrine\ORM\Mapping as ORM;

/** Somebody who wants to know what becomes of a ticket. */
#[ORM\Entity]
#[ORM\Table(name: 'watcher')]
#[ORM\Index(name: 'watcher_person', columns: ['person'])]
class Watcher
{
    #[ORM\Id]
    #[ORM\Column(length: 40)]
    private string $record;

    #[ORM\Id]
    #[ORM\Column(length: 60)]
    private string $person;

    /** The last run, and the last note, that they have seen */
    #[ORM\Column]
    private int $seenRun;

    #[ORM\Column]
    private int $seenNote;

    public function __construct(string $record, string $person, int $seenRun, int $seenNote)
    {
        $this->record = $record;
        $this->person = $person;
        $this->seenRun = $seenRun;
        $this->seenNote = $seenNote;
    }

    public function person(): string
    {
        return $this->person;
    }

    public function record(): string
    {
        return $this->record;
    }

    public function sees(int $run, int $note): void
    {
        $this->seenRun = max($this->seenRun, $run);
        $this->seenNote = max($this->seenNote, $note);
    }
}
