<?php

declare(strict_types=1);

namespace Sorvel\Core\Impact;

use Sorvel\Core\Engine\Engine;
use Sorvel\Core\Engine\Outcome;
use Sorvel\Core\Engine\RuleStatus;
use Sorvel\Core\Engine\TraceLevel;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\Rulebook;

/** Past events replayed through a rulebook, writing nothing: what would have come out otherwise. */
final class Impact
{
    private readonly Engine $engine;

    public function __construct(private readonly Rulebook $rulebook)
    {
        $this->engine = new Engine($rulebook);
    }

    public function of(PastEvent $past): Effect
    {
        try {
            $outcome = $this->outcome($past, TraceLevel::Outcome);
        } catch (NotRecorded $gap) {
            return new Effect('not_known', why: $gap->getMessage());
        } catch (\OutOfBoundsException $gone) {
            return new Effect('not_known', why: $gone->getMessage());
        }
        if ($outcome->isRefused()) {
            return new Effect('otherwise', why: implode(' ', array_column($outcome->refused, 'reason')));
        }
        $acts = array_map(strval(...), array_keys(array_filter($outcome->rules(), fn (RuleStatus $s): bool => $s->reachedRow())));
        $fields = $this->fields($past, $outcome);
        $starts = array_values(array_diff($acts, $past->acted));
        $stops = array_values(array_diff($past->acted, $acts));

        return new Effect($fields === [] && $starts === [] && $stops === [] ? 'same' : 'otherwise', $fields, $starts, $stops);
    }

    /**
     * @throws NotRecorded when something is needed that was not read then
     * @throws \OutOfBoundsException when there is no such type any more
     */
    public function outcome(PastEvent $past, TraceLevel $level): Outcome
    {
        return $this->engine->handle($past->event(), $past->store($this->rulebook), $level);
    }

    /** @return list<array{field: string, was: mixed, would: mixed, rule: string|null}> */
    private function fields(PastEvent $past, Outcome $outcome): array
    {
        $by = [];
        foreach ($outcome->changes as $change) {
            $by[$change['field']] = $change['rule'];
        }
        $fields = [];
        foreach ($this->rulebook->types[$past->type]->fields as $field) {
            if ($field->key === 'changed_at') {
                continue;
            }
            $was = $past->after[$field->key] ?? null;
            $would = Record::plain($outcome->record->value($field->key));
            if (! self::same($was, $would)) {
                $fields[] = ['field' => $field->key, 'was' => $was, 'would' => $would, 'rule' => $by[$field->key] ?? null];
            }
        }

        return $fields;
    }

    private static function same(mixed $a, mixed $b): bool
    {
        return (Record::isEmpty($a) && Record::isEmpty($b)) || $a === $b || (is_numeric($a) && is_numeric($b) && (float) $a === (float) $b);
    }
}
