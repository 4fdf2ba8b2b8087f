<?php

declare(strict_types=1);

namespace Sorvel\App\Run;

use Sorvel\App\Desk\Desk;
use Sorvel\App\Desk\Records;
use Sorvel\App\Draft\Draft;
use Sorvel\App\Draft\PartKind;
use Sorvel\Core\Model\FieldType;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Rulebook;

/**
 * Writes an event down as a sample: the records it could read, what came in, and what the rules made of it then. What
 * the draft no longer has (a field, a rule) is left out.
 */
final class SampleFromRun
{
    private const MAX_DEPTH = 3;

    public function __construct(private readonly Desk $desk, private readonly Draft $draft, private readonly Records $records)
    {
    }

    /** @return array<string, mixed> */
    public function tree(Run $run): array
    {
        $rulebook = $this->draft->rulebook();
        $type = $rulebook->types[$run->type()];
        $local = $run->at()->setTimezone(new \DateTimeZone($rulebook->timezone));
        $incoming = $this->known($run->incoming(), $type);
        $given = [];
        $this->give([...$this->known($run->before(), $type), ...$incoming], $type, $rulebook, $given, 0);
        unset($given[$type->key][$run->record()]);
        $step = $run->isCreation() ? ['create' => $type->key, 'as' => $run->record()] : ['change' => $run->record()];
        if (! $run->isCreation()) {
            $given[$type->key][$run->record()] = ['id' => $run->record(), ...$this->known($run->before(), $type)];
        }
        if ($run->by() !== null && isset($rulebook->people[$run->by()])) {
            $step['by'] = $run->by();
        }
        $step['with'] = $incoming;
        $acted = array_values(array_filter(array_keys(array_filter($run->rules(), fn (string $s): bool => in_array($s, ['acted', 'no_effect'], true))), fn (string $r): bool => isset($rulebook->rules[$r])));
        $step['expect'] = $this->expectation($run, $type, $acted);
        $title = $run->after()['title'] ?? null;

        return [
            'key' => $this->freeKey(is_string($title) ? $title : $run->record()),
            'title' => is_string($title) ? $title : $run->record(),
            'proves' => $acted === [] ? 'stay_still' : 'act',
            'rules' => $acted,
            'taken_from' => $run->record(),
            'clock' => $local->format('Y-m-d\TH:i:s'),
            'given' => array_filter(array_map(fn (array $records): array => array_values($records), $given)),
            'steps' => [$step],
        ];
    }

    /**
     * @param  list<string>  $acted
     * @return array<string, mixed>
     */
    private function expectation(Run $run, RecordType $type, array $acted): array
    {
        $fields = [];
        foreach ($run->changes() as $change) {
            $key = is_string($change['field'] ?? null) ? $change['field'] : '';
            if (($change['rule'] ?? null) !== null && isset($type->fields[$key])) {
                $fields[$key] = $run->after()[$key] ?? null;
            }
        }
        $expect = $fields === [] ? [] : [$run->record() => $fields];

        return $acted === [] ? $expect : [...$expect, 'acted' => $acted];
    }

    /**
     * @param  array<string, mixed>  $values
     * @return array<string, mixed>
     */
    private function known(array $values, RecordType $type): array
    {
        return array_filter($values, fn (string $key): bool => isset($type->fields[$key]) && ! $type->fields[$key]->fixed, ARRAY_FILTER_USE_KEY);
    }

    /**
     * Every record that the values refer to, and those that these refer to.
     *
     * @param  array<string, mixed>  $values
     * @param  array<string, array<string, array<string, mixed>>>  $given
     */
    private function give(array $values, RecordType $type, Rulebook $rulebook, array &$given, int $depth): void
    {
        $ids = [];
        foreach ($values as $key => $value) {
            if ($type->fields[$key]->type === FieldType::Reference && is_string($value)) {
                $ids[] = $value;
            }
        }
        foreach ($this->records->findMany($ids, $this->desk->rulebook()) as $id => $stored) {
            $of = $rulebook->types[$stored->record->type] ?? null;
            if ($of === null || isset($given[$of->key][$id])) {
                continue;
            }
            $known = $this->known(Record::json($stored->record->values), $of);
            $given[$of->key][$id] = ['id' => $id, ...$known];
            if ($depth < self::MAX_DEPTH) {
                $this->give($known, $of, $rulebook, $given, $depth + 1);
            } else {
                $given[$of->key][$id] = array_filter($given[$of->key][$id], fn (string $key): bool => ($of->fields[$key] ?? null)?->type !== FieldType::Reference, ARRAY_FILTER_USE_KEY);
            }
        }
    }

    private function freeKey(string $title): string
    {
        $base = trim((string) preg_replace('~[^a-z0-9]+~', '_', strtolower((string) iconv('UTF-8', 'ASCII//TRANSLIT', $title))), '_');
        $base = substr(preg_match('~^[a-z]~', $base) === 1 ? $base : 'sample_'.$base, 0, 60);
        $key = $base;
        for ($i = 2; $this->draft->find(PartKind::Samples, $key) !== null; $i++) {
            $key = $base.'_'.$i;
        }

        return $key;
    }
}
