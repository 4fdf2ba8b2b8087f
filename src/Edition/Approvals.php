<?php

declare(strict_types=1);

namespace Sorvel\App\Edition;

use Doctrine\DBAL\Connection;
use Doctrine\ORM\EntityManagerInterface;
use Psr\Clock\ClockInterface;
use Sorvel\App\Draft\Draft;
use Sorvel\App\Draft\PartKind;
use Sorvel\App\Work\LongWork;

/** Where the desk asks for it, an edition is published by one person and approved by another, on exactly the draft that is published. */
final class Approvals
{
    public function __construct(private readonly Connection $database, private readonly Draft $draft, private readonly Editions $editions, private readonly EntityManagerInterface $entities, private readonly ClockInterface $clock)
    {
    }

    /** Also while the edition in force asks for it: nobody lifts the need and publishes in one go. */
    public function areNeeded(): bool
    {
        return ($this->draft->tree()['approval'] ?? false) === true || ($this->editions->current()?->rulebook()['approval'] ?? false) === true;
    }

    /** @return list<string> keys of those who have approved the draft as it is */
    public function given(): array
    {
        return array_map(strval(...), $this->database->fetchFirstColumn('SELECT person FROM approval WHERE draft = ? ORDER BY at, person', [$this->fingerprint()]));
    }

    public function give(string $by): void
    {
        $this->database->executeStatement('INSERT IGNORE INTO approval (draft, person, at) VALUES (?, ?, ?)', [$this->fingerprint(), $by, $this->clock->now()->format('Y-m-d H:i:s')]);
    }

    public function ask(bool $asked, string $by): void
    {
        $desk = $this->draft->parts(PartKind::Desk)[0] ?? throw new \LogicException('There is no desk.');
        $tree = $desk->tree();
        unset($tree['approval']);
        $desk->become($asked ? [...$tree, 'approval' => true] : $tree, $by, $this->clock->now());
        $this->entities->flush();
    }

    private function fingerprint(): string
    {
        return LongWork::fingerprint($this->draft->tree(), $this->draft->sampleTrees());
    }
}
