<?php

declare(strict_types=1);

namespace Sorvel\Core\Finding\Check;

use Sorvel\Core\Finding\Book;
use Sorvel\Core\Finding\Check;
use Sorvel\Core\Finding\Finding;
use Sorvel\Core\Finding\Weight;
use Sorvel\Core\Rule\ChangedStart;
use Sorvel\Core\Rule\Start;

/** Rules that nothing starts. */
final class NeverDue implements Check
{
    public function look(Book $book): iterable
    {
        foreach ($book->rulebook->rules as $rule) {
            if (! $rule->enabled) {
                yield new Finding(
                    'switched_off', Weight::Note, 'rules', $rule->key, '', sprintf('"%s" is switched off.', $rule->title),
                    'It stands among the others and does nothing; who reads the rulebook may think that it does.', 'Switch it on when it is ready, or remove it.',
                );

                continue;
            }
            $dead = array_filter($rule->starts, fn (Start $s): bool => $s instanceof ChangedStart && array_filter($s->fields, fn (string $f): bool => $this->mayChange($book, $rule->on, $f)) === []);
            if ($rule->starts !== [] && count($dead) === count($rule->starts)) {
                yield new Finding(
                    'never_due', Weight::Attention, 'rules', $rule->key, '/starts', sprintf('"%s" is never due: it starts only on fields that do not change.', $rule->title),
                    'Retired and fixed fields keep their values, so nothing ever starts it.', 'Give it another start.',
                );
            }
        }
    }

    /** @param  non-empty-list<string>  $types */
    private function mayChange(Book $book, array $types, string $field): bool
    {
        foreach ($types as $type) {
            $found = $book->rulebook->types[$type]->fields[$field] ?? null;
            if ($found !== null && $found->active && (! $found->fixed || $found->isComputed() || $found->key === 'changed_at')) {
                return true;
            }
        }

        return false;
    }
}
