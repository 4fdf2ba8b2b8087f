<?php

declare(strict_types=1);

namespace Sorvel\Core\Finding\Check;

use Sorvel\Core\Finding\Book;
use Sorvel\Core\Finding\Check;
use Sorvel\Core\Finding\Finding;
use Sorvel\Core\Finding\Weight;
use Sorvel\Core\Rule\AssignChange;
use Sorvel\Core\Rule\ClearChange;
use Sorvel\Core\Rule\FieldChange;
use Sorvel\Core\Rule\Rule;
use Sorvel\Core\Rule\SetChange;
use Sorvel\Core\Rule\When;

/** One field that several rules set, so that their order decides. Raising, adding and keeping the higher go together. */
final class TwoWriters implements Check
{
    public function look(Book $book): iterable
    {
        /** @var array<string, array<string, list<Rule>>> $writers by type and field */
        $writers = [];
        foreach ($book->rules() as $rule) {
            foreach ($rule->changes as $change) {
                if (! $change instanceof FieldChange || $change->of !== null || ! $this->decides($change)) {
                    continue;
                }
                foreach ($rule->on as $type) {
                    if (! in_array($rule, $writers[$type][$change->field] ?? [], true)) {
                        $writers[$type][$change->field][] = $rule;
                    }
                }
            }
        }
        foreach ($writers as $type => $fields) {
            foreach ($fields as $field => $rules) {
                if (count($rules) > 1 && $this->meet($rules)) {
                    yield new Finding(
                        'two_writers', Weight::Note, 'rules', $rules[count($rules) - 1]->key, '/changes', sprintf('%s is set by %d rules: %s.', $book->label($type.'.'.$field), count($rules), Book::and(array_map(fn (Rule $r): string => '"'.$r->title.'"', $rules))),
                        'Where more than one of them acts on a save, their order in the rulebook decides which value stands.', 'See that the order is meant, and that a sample has two of them act at once.', array_map(fn (Rule $r): string => $r->key, array_slice($rules, 0, -1)),
                    );
                }
            }
        }
    }

    private function decides(FieldChange $change): bool
    {
        return $change instanceof ClearChange || $change instanceof AssignChange || ($change instanceof SetChange && in_array($change->when, [When::Always, When::Empty], true));
    }

    /**
     * Whether two of them can act on one event.
     *
     * @param  list<Rule>  $rules
     */
    private function meet(array $rules): bool
    {
        foreach ($rules as $i => $one) {
            foreach (array_slice($rules, $i + 1) as $other) {
                // what waits for different moments does not meet, unless a change of one wakes the other
                $kinds = array_intersect($one->kinds, $other->kinds);
                if ($kinds !== [] || $one->watches !== [] || $other->watches !== []) {
                    return true;
                }
            }
        }

        return false;
    }
}
