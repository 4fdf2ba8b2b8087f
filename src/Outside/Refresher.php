<?php

declare(strict_types=1);

namespace Sorvel\App\Outside;

use Doctrine\ORM\EntityManagerInterface;
use Psr\Clock\ClockInterface;
use Sorvel\App\Desk\Desk;
use Sorvel\App\Desk\RecordIndex;
use Sorvel\App\Desk\Records;
use Sorvel\App\Import\Import;
use Sorvel\App\Import\ImportRows;
use Sorvel\App\Import\Stage;
use Sorvel\App\Import\WorkOnImport;
use Symfony\Component\Messenger\Attribute\AsMessageHandler;
use Symfony\Component\Messenger\MessageBusInterface;
use Symfony\Component\Messenger\Stamp\DelayStamp;

/** A good answer becomes an import of its own, with fates and a way back; a bad one changes nothing and is told. */
#[AsMessageHandler]
final class Refresher
{
    public function __construct(
        private readonly EntityManagerInterface $entities,
        private readonly Source $source,
        private readonly ImportRows $rows,
        private readonly Records $records,
        private readonly Desk $desk,
        private readonly ClockInterface $clock,
        private readonly MessageBusInterface $bus,
    ) {
    }

    public function __invoke(RefreshOutside $message): void
    {
        $list = $this->entities->find(OutsideList::class, $message->type);
        if ($list?->isPlanned($message->plan) === true) {
            $this->refresh($list);
            $this->planNext($list);
        }
    }

    public function planNext(OutsideList $list, int $minutes = -1): void
    {
        $minutes = $minutes < 0 ? $list->every() : $minutes;
        $plan = $list->plan($this->clock->now()->modify('+'.$minutes.' minutes'));
        $this->entities->flush();
        $this->bus->dispatch(new RefreshOutside($list->type(), $plan), [new DelayStamp($minutes * 60_000)]);
    }

    /** @return int|null the number of the import that it came to; null when nothing was new, or nothing was usable */
    public function refresh(OutsideList $list): ?int
    {
        $at = $this->clock->now();
        try {
            $rows = $this->source->rows($list);
            $type = $this->desk->rulebook()->types[$list->type()] ?? throw new SourceFailure('The register is gone.');
            $fingerprint = hash('sha256', json_encode([$list->paths(), $list->key(), $rows], JSON_THROW_ON_ERROR));
        } catch (SourceFailure|\InvalidArgumentException|\JsonException $failure) {
            $list->failed($failure->getMessage(), $at);
            $this->entities->flush();

            return null;
        }
        $keys = array_values(array_filter(array_map(fn (array $row): ?string => is_scalar($row[$list->key()] ?? null) ? RecordIndex::said($row[$list->key()]) : null, $rows)));
        $unlisted = max(0, ($this->records->counts()[$type->key] ?? 0) - count($this->records->with($type->key, $list->key(), $keys)));
        if ($fingerprint === $list->fingerprint()) {
            $list->succeeded($at, $fingerprint, count($rows), $unlisted);
            $this->entities->flush();

            return null;
        }
        $fields = array_map(strval(...), array_keys($list->paths()));
        $import = new Import($type->key, $type->title.', from outside', '', $at, $fields, array_combine($fields, $fields));
        $import->match(array_combine($fields, $fields), $list->key());
        $this->entities->wrapInTransaction(function () use ($import, $rows, $fields, $list, $at, $fingerprint, $unlisted): void {
            $import->reaches(Stage::Running);
            $this->entities->persist($import);
            $this->entities->flush();
            $import->holds($this->rows->keep($import->id(), (function () use ($rows, $fields): iterable {
                foreach ($rows as $i => $row) {
                    yield $i + 1 => array_map(fn (string $field): mixed => $row[$field] ?? null, $fields);
                }
            })()));
            $list->succeeded($at, $fingerprint, count($rows), $unlisted);
        });
        $this->bus->dispatch(new WorkOnImport($import->id()));

        return $import->id();
    }
}
