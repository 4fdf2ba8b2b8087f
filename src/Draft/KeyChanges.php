<?php

declare(strict_types=1);

namespace Sorvel\App\Draft;

use Doctrine\ORM\EntityManagerInterface;
use Psr\Clock\ClockInterface;
use Sorvel\App\Desk\Records;
use Sorvel\Core\Finding\Rename;
use Sorvel\Core\Model\Rulebook;

/** New keys: written down with the draft, carried out on the live records with the edition. */
final class KeyChanges
{
    public function __construct(private readonly EntityManagerInterface $entities, private readonly Records $records, private readonly ClockInterface $clock)
    {
    }

    public function note(Rename $rename, ?string $by): void
    {
        $this->entities->persist(new KeyChange($rename, $by, $this->clock->now()));
        $this->entities->flush();
    }

    /** The key that a field of the draft has on the live records, while the draft is not published. */
    public function oldKey(string $type, string $field): string
    {
        foreach (array_reverse($this->entities->getRepository(KeyChange::class)->findBy(['edition' => null], ['id' => 'ASC'])) as $change) {
            $rename = $change->rename();
            if ($rename->option === null && $rename->type === $type && $rename->to === $field) {
                $field = $rename->field;
            }
        }

        return $field;
    }

    /** Inside the transaction that publishes. */
    public function carryOut(int $edition, Rulebook $before): void
    {
        foreach ($this->entities->getRepository(KeyChange::class)->findBy(['edition' => null], ['id' => 'ASC']) as $change) {
            $this->records->rename($change->rename(), $before);
            $change->comesIntoForce($edition);
        }
        $this->entities->flush();
    }

    /**
     * What was written under an edition, by the keys of today.
     *
     * @param  list<array<string, mixed>>  $changes  each with a "field"
     * @return list<array<string, mixed>>
     */
    public function upToDate(array $changes, string $type, ?int $edition): array
    {
        foreach ($this->since($edition) as $rename) {
            if ($rename->type === $type) {
                $changes = array_map(fn (array $change): array => ($change['field'] ?? null) !== $rename->field ? $change : ($rename->option === null
                    ? [...$change, 'field' => $rename->to]
                    : [...$change, ...array_map(fn (mixed $value): mixed => $rename->inStored($value), array_intersect_key($change, ['before' => 1, 'after' => 1]))]), $changes);
            }
        }

        return $changes;
    }

    /** @return list<Rename> */
    private function since(?int $edition): array
    {
        /** @var list<KeyChange> $all */
        $all = $this->entities->getRepository(KeyChange::class)->createQueryBuilder('c')->where('c.edition > :edition')->setParameter('edition', $edition ?? 0)->orderBy('c.id')->getQuery()->getResult();

        return array_map(fn (KeyChange $change): Rename => $change->rename(), $all);
    }
}
