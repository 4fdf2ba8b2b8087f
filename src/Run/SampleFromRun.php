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
        $this->giveFound($run, $rulebook, $given);
        unset($given[$type->key][$run->record()]);
        $isNew = $run->beforeOrNull() === null;
        $clock = $local;
        if (! $isNew) {
            $given[$type->key][$run->record()] = ['id' => $run->record(), ...$this->known($run->before(), $type)];
        }
        [$step, $takesPerson] = $this->step($run, $type, $isNew, $local->format('Y-m-d\TH:i:s'));
        if (isset($step['clock'])) {
            // its time came within the last day
            $clock = $local->modify('-1 day');
        }
        if ($takesPerson && $run->by() !== null && isset($rulebook->people[$run->by()])) {
            $step['by'] = $run->by();
        }
        if (isset($step['create']) || isset($step['change'])) {
            $step['with'] = $incoming;
        }
        $acted = array_values(array_filter(array_keys(array_filter($run->rules(), fn (string $s): bool => in_array($s, ['acted', 'no_effect'], true))), fn (string $r): bool => isset($rulebook->rules[$r])));
        $step['expect'] = $this->expectation($run, $type, $acted);
        $title = $run->after()['title'] ?? null;

        return [
            'key' => $this->freeKey(is_string($title) ? $title : $run->record()),
            'title' => is_string($title) ? $title : $run->record(),
            'proves' => $acted === [] ? 'stay_still' : 'act',
            'rules' => $acted,
            'taken_from' => $run->record(),
            'clock' => $clock->format('Y-m-d\TH:i:s'),
            'given' => array_filter(array_map(fn (array $records): array => array_values($records), $given)),
            'steps' => [$step],
        ];
    }

    /** @return array{array<string, mixed>, bool} what happened, and whether a person did it */
    private function step(Run $run, RecordType $type, bool $isNew, string $at): array
    {
        $event = is_array($run->trace()['event'] ?? null) ? $run->trace()['event'] : [];
        $data = is_array($event['data'] ?? null) ? $event['data'] : [];
        $id = $run->record();
        switch ($run->kind()) {
            case 'deleted':
                return [['delete' => $id], true];
            case 'received':
                $message = array_filter(is_array($data['message'] ?? null) ? $data['message'] : ['from' => 'unknown@nowhere.example'], fn (mixed $v): bool => $v !== null);

                return [$isNew ? ['receive' => [...$message, 'opens' => $type->key], 'as' => $id] : ['receive' => [...$message, 'about' => $id]], false];
            case 'answered':
                return [['answer' => array_filter(['call' => $data['call'] ?? '', 'status' => $data['status'] ?? null, 'body' => $data['body'] ?? null], fn (mixed $v): bool => $v !== null), 'on' => $id], false];
            case 'at':
                return [['clock' => $at], false];
            case 'by_hand':
                $due = is_array($event['due'] ?? null) ? $event['due'] : [];

                return [['by_hand' => is_string($due[0] ?? null) ? $due[0] : '', 'on' => $id, 'with' => is_array($data['inputs'] ?? null) ? $data['inputs'] : []], true];
            default:
                return [$isNew ? ['create' => $type->key, 'as' => $id] : ['change' => $id], true];
        }
    }

    /**
     * What look-ups found.
     *
     * @param  array<string, array<string, array<string, mixed>>>  $given
     */
    private function giveFound(Run $run, Rulebook $rulebook, array &$given): void
    {
        $ids = [];
        foreach (is_array($run->trace()['passes'] ?? null) ? $run->trace()['passes'] : [] as $pass) {
            foreach ($pass['rules'] ?? [] as $look) {
                foreach ($look['look_ups'] ?? [] as $found) {
                    array_push($ids, ...array_filter(is_array($found['records'] ?? null) ? $found['records'] : [], is_string(...)));
                }
            }
        }
        foreach ($this->records->findMany(array_values(array_unique($ids)), $this->desk->rulebook()) as $id => $stored) {
            $of = $rulebook->types[$stored->record->type] ?? null;
            if ($of !== null && ! isset($given[$of->key][$id])) {
                $known = $this->known(Record::json($stored->record->values), $of);
                $given[$of->key][$id] = ['id' => $id, ...$known];
                $this->give($known, $of, $rulebook, $given, 1);
            }
        }
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
