<?php

declare(strict_types=1);

namespace Sorvel\Core\Proposal;

use Random\Engine\Mt19937;
use Random\Randomizer;
use Sorvel\Core\Engine\Outcome;
use Sorvel\Core\Feel\Walk;
use Sorvel\Core\Finding\Book;
use Sorvel\Core\Format\InvalidInput;
use Sorvel\Core\Format\SampleBuilder;
use Sorvel\Core\Guard\Guard;
use Sorvel\Core\Mirror\Mirror;
use Sorvel\Core\Replay\SampleResult;
use Sorvel\Core\Replay\SampleRunner;
use Sorvel\Core\Replay\StepResult;
use Sorvel\Core\Replay\Verdict;
use Sorvel\Core\Rule\ChangedStart;
use Sorvel\Core\Rule\CreatedStart;
use Sorvel\Core\Rule\Rule;
use Sorvel\Core\Rule\SetChange;
use Sorvel\Core\Rule\When;

/** Stories in which a guard turns something down or empties a field, and in which a mirror moves its field. */
final class GuardsAndMirrors
{
    /** Stories told about one of them before it is left. */
    private const BUDGET = 150;

    /** How many stories were replayed. */
    public int $told = 0;

    public function __construct(private readonly Book $book)
    {
    }

    /**
     * The least story found; null when none was.
     *
     * @param  \Closure(string): string  $name  a sample's key that is not taken, from the part's
     */
    public function about(Guard|Mirror $part, \Closure $name): ?Proposed
    {
        foreach ($part->on as $type) {
            $stories = new Stories($this->book, $this->asRule($part, $type), $type, [$part instanceof Guard ? 'guards' : 'mirrors', $part->key]);
            $random = new Randomizer(new Mt19937(crc32($part->key.' '.$type)));
            for ($try = 0; $try < self::BUDGET; $try++) {
                $story = [];
                foreach ($stories->variables as $variable => $values) {
                    $story[$variable] = $values[$random->getInt(0, count($values) - 1)];
                }
                if ($this->run($story, $stories, $part) === null) {
                    continue;
                }
                foreach (array_reverse(array_keys($story)) as $variable) {
                    $less = array_diff_key($story, [$variable => 1]);
                    if (! in_array($variable, ['start', 'changes'], true) && $this->run($less, $stories, $part) !== null) {
                        $story = $less;
                    }
                }

                return $this->accepted($story, $stories, $part, $type, $name($part->key));
            }
        }

        return null;
    }

    /** A rule that starts on whatever the part looks at, and does nothing: its stories are those of the part. */
    private function asRule(Guard|Mirror $part, string $type): Rule
    {
        $formulas = $part instanceof Guard ? array_values(array_filter([$part->when, $part->only])) : [$part->from];
        $fields = [$part->field];
        foreach ($formulas as $formula) {
            foreach (Walk::names($formula->tree) as $field) {
                isset($this->book->rulebook->types[$type]->fields[$field]) && $fields[] = $field;
            }
        }

        return new Rule($part->key, $part->key, [$type], true, [new CreatedStart, new ChangedStart(array_values(array_unique($fields)), null, null)], null, [], false, $formulas, [new SetChange($part->field, When::Always)], []);
    }

    /**
     * @param  array<string, mixed>  $story
     * @return array{SampleResult, array<string, mixed>}|null what came out, and the sample; null when the part had no part in it
     */
    private function run(array $story, Stories $stories, Guard|Mirror $part): ?array
    {
        $this->told++;
        $tree = $stories->tell($story, 'proposed', 'Proposed');
        if ($tree === null) {
            return null;
        }
        // a guard and a mirror belong to no rule
        unset($tree['rules']);
        try {
            $result = (new SampleRunner($this->book->rulebook))->run(SampleBuilder::build($tree));
        } catch (InvalidInput) {
            return null;
        }

        return $result->verdict === Verdict::Broken || $this->where($result, $part) === null ? null : [$result, $tree];
    }

    /** @return array{int, Outcome}|null the step in which it had a part, and on which record */
    private function where(SampleResult $result, Guard|Mirror $part): ?array
    {
        foreach ($result->steps as $number => $step) {
            foreach ($step->outcomes as $outcome) {
                $did = $part instanceof Guard ? $outcome->guards : $outcome->mirrors;
                // what another guard turns down, or a missing value, is another story
                if (in_array($part->key, $did, true) && ($part instanceof Guard ? count($outcome->refused) < 2 : ! $outcome->isRefused())) {
                    return [$number, $outcome];
                }
            }
        }

        return null;
    }

    /** @param  array<string, mixed>  $story */
    private function accepted(array $story, Stories $stories, Guard|Mirror $part, string $type, string $key): ?Proposed
    {
        [$result, $tree] = $this->run($story, $stories, $part) ?? [null, []];
        $at = $result === null ? null : $this->where($result, $part);
        if ($result === null || $at === null) {
            return null;
        }
        [$number, $outcome] = $at;
        $label = $this->book->rulebook->types[$type]->fields[$part->field]->label;
        $tree['key'] = $key;
        $tree['title'] = mb_strimwidth($part instanceof Guard ? ($part->reason ?? $part->say($this->book->rulebook->types[$type]->fields[$part->field])) : sprintf('%s follows %s', $label, $part->from->source), 0, 150, ' …');
        $tree['steps'][$number]['expect'] = $outcome->isRefused() ? ['refused' => true] : $this->expected($result->steps[$number], $outcome, $part->field);
        $says = $part instanceof Guard ? ($outcome->isRefused() ? sprintf('the guard on %s turns it down', $label) : sprintf('the guard on %s empties it', $label)) : sprintf('%s moves', $label);

        return new Proposed($part->key, $tree, [$says], $part instanceof Guard ? 'guards' : 'mirrors');
    }

    /** @return array<string, mixed> */
    private function expected(StepResult $step, Outcome $outcome, string $field): array
    {
        $id = $outcome->record->id;
        $problems = array_values(array_unique(array_map(fn (array $p): string => $p['rule'] ?? 'desk', $step->problems)));

        return [$id => [$field => $step->values[$id][$field] ?? null]] + ($problems === [] ? [] : ['problems' => $problems]);
    }
}
