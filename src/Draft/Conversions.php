<?php

declare(strict_types=1);

namespace Sorvel\App\Draft;

use Doctrine\ORM\EntityManagerInterface;
use Psr\Clock\ClockInterface;
use Sorvel\App\Desk\DoctrineStore;
use Sorvel\App\Desk\Records;
use Sorvel\App\Run\Run;
use Sorvel\Core\Model\Conversion;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Rulebook;
use Sorvel\Core\Model\Viewer;

/** Fields that become another type: told beforehand, carried out on the live records with the edition. */
final class Conversions
{
    private const EXAMPLES = 5;

    public function __construct(private readonly Records $records, private readonly EntityManagerInterface $entities, private readonly ClockInterface $clock, private readonly KeyChanges $keyChanges)
    {
    }

    /**
     * What a type's records would lose.
     *
     * @return list<array{field: string, label: string, values: int, lost: int, examples: list<array{record: string, value: string, why: string}>}>
     */
    public function preview(Rulebook $now, RecordType $next): array
    {
        $conversions = $this->needed($now->types[$next->key] ?? null, $next);
        $told = [];
        foreach ($conversions as $conversion) {
            $told[] = $this->told($conversion, $next->key, $now);
        }

        return $told;
    }

    /** @return array{field: string, label: string, values: int, lost: int, examples: list<array{record: string, value: string, why: string}>} */
    private function told(Conversion $conversion, string $type, Rulebook $now): array
    {
        [$values, $lost, $examples] = [0, 0, []];
        foreach ($this->pages($type, $now) as $records) {
            $viewer = new Viewer($now, new DoctrineStore($this->records, $now, $this->clock->now(), writes: false));
            foreach ($records as $record) {
                $value = $record->value($conversion->from->key);
                $why = $this->misfit($conversion, $value, $viewer);
                $values += $value === null ? 0 : 1;
                $lost += $why === null ? 0 : 1;
                if ($why !== null && count($examples) < self::EXAMPLES) {
                    $examples[] = ['record' => $record->id, 'value' => mb_strimwidth($conversion->from->kind->words($value, $conversion->from, $viewer), 0, 80, '…'), 'why' => $why];
                }
            }
        }

        return ['field' => $conversion->to->key, 'label' => $conversion->to->label, 'values' => $values, 'lost' => $lost, 'examples' => $examples];
    }

    private function misfit(Conversion $conversion, mixed $value, Viewer $viewer): ?string
    {
        try {
            $value === null ?: $conversion->value($value, $viewer);

            return null;
        } catch (Misfit $misfit) {
            return $misfit->getMessage();
        }
    }

    /** @return array<string, list<Conversion>> by type; asked before new keys are given, while it is known which field was which */
    public function begin(Rulebook $before, Rulebook $after): array
    {
        return array_filter(array_map(fn (RecordType $type): array => $this->needed($before->types[$type->key] ?? null, $type), $after->types), fn (array $list): bool => $list !== []);
    }

    /**
     * Inside the transaction that publishes, after new keys have been given. What is lost stands in the record's history.
     *
     * @param  array<string, list<Conversion>>  $needed  as {@see begin} found them
     */
    public function carryOut(int $edition, Rulebook $before, Rulebook $after, array $needed, ?string $by): void
    {
        foreach ($needed as $key => $conversions) {
            $type = $after->types[$key];
            $old = $before->types[$key];
            // values as they were, under the keys that they have by now
            $reading = $before->withType($old->withFields([...$old->fields, ...array_combine(array_map(fn (Conversion $c): string => $c->to->key, $conversions), array_map(fn (Conversion $c): Field => $c->from, $conversions))]));
            foreach ($this->pages($type->key, $reading) as $records) {
                $store = new DoctrineStore($this->records, $after, $this->clock->now());
                $viewer = new Viewer($before, $store);
                foreach ($records as $record) {
                    $this->convert($record, $type, $conversions, $viewer, $store, $edition, $by);
                }
                $this->entities->flush();
                $this->entities->clear();
            }
        }
    }

    /** @param  list<Conversion>  $conversions */
    private function convert(Record $record, RecordType $type, array $conversions, Viewer $viewer, DoctrineStore $store, int $edition, ?string $by): void
    {
        $new = $record;
        $changes = [];
        foreach ($conversions as $conversion) {
            // its key may be a new one, which the record has already
            $key = $conversion->to->key;
            $old = $record->value($key);
            if ($old === null) {
                continue;
            }
            try {
                $value = $conversion->value($old, $viewer);
            } catch (Misfit) {
                $value = null;
            }
            if ($old !== $value) {
                $new = $new->with($key, $value);
                $changes[] = ['field' => $key, 'before' => Record::plain($old), 'after' => Record::plain($value), 'rule' => null];
            }
        }
        if ($changes !== []) {
            $store->convert($new);
            $changes = array_values(array_filter($changes, fn (array $c): bool => ! Record::same($c['before'], $c['after'])));
            if ($changes === []) {
                return;
            }
            $this->entities->persist(new Run($record->id, $type->key, 'changed', $by, $this->clock->now(), $edition, [], Record::json($record->values), Record::json($new->values), $changes, [], [], [], 0.0));
        }
    }

    /** @return list<Conversion> */
    private function needed(?RecordType $before, RecordType $after): array
    {
        $found = [];
        foreach ($after->fields as $field) {
            $old = $before?->fields[$this->keyChanges->oldKey($after->key, $field->key)] ?? null;
            if ($old !== null && ! $old->builtIn && (new Conversion($old, $field))->isNeeded()) {
                $found[] = new Conversion($old, $field);
            }
        }

        return $found;
    }

    /** @return iterable<list<Record>> */
    private function pages(string $type, Rulebook $rulebook): iterable
    {
        $ids = [];
        foreach ($this->records->ids($type) as $id) {
            $ids[] = $id;
            if (count($ids) === 500) {
                yield $this->page($ids, $rulebook);
                $ids = [];
            }
        }
        if ($ids !== []) {
            yield $this->page($ids, $rulebook);
        }
    }

    /**
     * @param  list<string>  $ids
     * @return list<Record>
     */
    private function page(array $ids, Rulebook $rulebook): array
    {
        return array_values(array_map(fn ($stored): Record => $stored->record, $this->records->findMany($ids, $rulebook)));
    }
}
