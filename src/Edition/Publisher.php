<?php

declare(strict_types=1);

namespace Sorvel\App\Edition;

use Doctrine\DBAL\Exception\UniqueConstraintViolationException;
use Doctrine\ORM\EntityManagerInterface;
use Psr\Clock\ClockInterface;
use Sorvel\App\Desk\RecordIndex;
use Sorvel\App\Draft\Conversions;
use Sorvel\App\Draft\Draft;
use Sorvel\App\Draft\KeyChanges;
use Sorvel\App\Http\Problem;
use Symfony\Component\Messenger\MessageBusInterface;

/** Makes the draft an edition; from then on the desk runs on it. */
final class Publisher
{
    public function __construct(
        private readonly EntityManagerInterface $entities,
        private readonly Draft $draft,
        private readonly Editions $editions,
        private readonly ClockInterface $clock,
        private readonly MessageBusInterface $bus,
        private readonly KeyChanges $keyChanges,
        private readonly Conversions $conversions,
        private readonly RecordIndex $index,
    ) {
    }

    /** @param  array{reason: string, samples: list<array<string, mixed>>, findings: list<array<string, mixed>>}|null  $overridden  what stood in the way, and why it is published all the same */
    public function publish(string $note, ?string $by, ?array $overridden = null, ?int $backTo = null): Edition
    {
        $changes = $this->draft->changes();
        if ($changes === [] && $this->editions->currentNumber() !== null) {
            throw new Problem(409, 'There is nothing to publish.', 'The draft is the same as the edition in force.');
        }
        $this->draft->rulebook();
        $before = $this->editions->current()?->rulebook();
        $edition = new Edition(
            ($this->editions->currentNumber() ?? 0) + 1, $note, $by, $this->clock->now(), $this->draft->tree(),
            $this->draft->sampleTrees(), $changes, $overridden, $backTo,
        );
        try {
            $this->entities->wrapInTransaction(function () use ($edition, $by): void {
                $before = $this->editions->rulebook();
                $this->editions->waitForSaves();
                $this->entities->persist($edition);
                $this->entities->flush();
                $this->index->prepare($this->draft->rulebook());
                if ($before !== null) {
                    $needed = $this->conversions->begin($before, $this->draft->rulebook());
                    $this->keyChanges->carryOut($edition->number(), $before);
                    $this->conversions->carryOut($edition->number(), $before, $this->draft->rulebook(), $needed, $by);
                }
            });
        } catch (UniqueConstraintViolationException) {
            throw new Problem(409, 'Somebody else published at the same moment.', 'Reload to see their edition, then publish again.');
        }
        $this->editions->published($edition);
        $this->bus->dispatch(new EditionPublished($edition->number()));
        $types = $before === null ? [] : self::following($before, $edition->rulebook());
        if ($types !== []) {
            $this->bus->dispatch(new RecordsToFollow($edition->number(), $types));
        }

        return $edition;
    }

    /**
     * Types whose derived fields, mirrors or tallies differ between two rulebooks.
     *
     * @param  array<string, mixed>  $before
     * @param  array<string, mixed>  $after
     * @return list<string>
     */
    private static function following(array $before, array $after): array
    {
        $of = function (array $tree): array {
            $found = [];
            foreach (is_array($tree['types'] ?? null) ? $tree['types'] : [] as $type) {
                $found[$type['key']] = array_values(array_filter($type['fields'], fn (array $f): bool => in_array($f['type'], ['derived', 'tally'], true)));
            }
            foreach (is_array($tree['mirrors'] ?? null) ? $tree['mirrors'] : [] as $mirror) {
                foreach ((array) $mirror['on'] as $type) {
                    $found[$type][] = $mirror;
                }
            }

            return $found;
        };
        [$old, $new] = [$of($before), $of($after)];

        return array_values(array_filter(array_map(strval(...), array_keys($new)), fn (string $type): bool => $new[$type] !== [] && $new[$type] !== ($old[$type] ?? [])));
    }
}
