<?php

declare(strict_types=1);

namespace Sorvel\Core\Finding\Check;

use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Feel\Node\Arithmetic;
use Sorvel\Core\Feel\Walk;
use Sorvel\Core\Finding\Book;
use Sorvel\Core\Finding\Check;
use Sorvel\Core\Finding\Finding;
use Sorvel\Core\Finding\Weight;
use Sorvel\Core\Rule\AtStart;
use Sorvel\Core\Rule\RaiseChange;
use Sorvel\Core\Rule\Repeat;
use Sorvel\Core\Rule\Rule;
use Sorvel\Core\Rule\SetChange;

/** Changes that change something again each time the rule looks, although nothing else is different. */
final class NotSafeToRepeat implements Check
{
    public function look(Book $book): iterable
    {
        foreach ($book->rules() as $rule) {
            if ($rule->repeat === Repeat::Once || $rule->kinds === ['created']) {
                continue;
            }
            foreach ($rule->changes as $column => $change) {
                if ($change instanceof RaiseChange && $change->of === null) {
                    [$min, $max] = ($book->rulebook->types[$rule->on[0]]->fields[$change->field] ?? null)?->bounds() ?? [null, null];
                    if ($min === null || $max === null) {
                        yield $this->found($rule, $column, sprintf('%s grows each time "%s" looks, and has no bound.', $book->label($rule->on[0].'.'.$change->field), $rule->title), 'Give the field a least and a greatest value, or let the rule act once a record.');
                    }
                } elseif ($change instanceof SetChange && $change->of === null && $this->buildsOnItself($rule, $column, $change->field)) {
                    yield $this->found($rule, $column, sprintf('"%s" sets %s from what stands there already.', $rule->title, $book->label($rule->on[0].'.'.$change->field)), 'Use prefix or suffix, which do not repeat, or raise within bounds; or compute it from other fields.');
                }
            }
            $does = array_filter($rule->waiting, fn ($c): bool => in_array($c->kind(), ['message', 'notify', 'call', 'create', 'note'], true));
            if ($does !== [] && array_filter($rule->starts, fn ($s): bool => ! $s instanceof AtStart) === [] && ! $this->leaves($rule)) {
                yield $this->found($rule, (int) array_key_first($does), sprintf('"%s" does the same again each time the clock comes round.', $rule->title), 'Let it change something that its condition looks at, or act once a record, unless the repetition is meant.');
            }
        }
    }

    private function found(Rule $rule, int $column, string $says, string $proposal): Finding
    {
        return new Finding('not_safe_to_repeat', Weight::Attention, 'rules', $rule->key, '/changes/'.$column, $says, 'The same save a second time, or a value turned back and forth, changes the record again.', $proposal);
    }

    /** Whether a cell joins or adds something to what the field holds. */
    private function buildsOnItself(Rule $rule, int $column, string $field): bool
    {
        foreach ($rule->rows as $row) {
            $cell = $row->then[$column] ?? null;
            foreach ($cell === null ? [] : Walk::all($cell->tree) as $node) {
                if ($node instanceof Arithmetic && in_array($node->operator, ['+', '-', '*'], true) && Walk::mayRead($node, $field) && ! Walk::readsName($node, 'record')) {
                    return true;
                }
            }
        }

        return false;
    }

    /** Whether what it changes may end what makes it act. */
    private function leaves(Rule $rule): bool
    {
        /** @var list<Formula> $looks */
        $looks = array_values(array_filter([$rule->onlyIf, ...$rule->checks, ...array_map(fn ($s): ?Formula => $s instanceof AtStart ? $s->for : null, $rule->starts)]));
        foreach ($rule->immediate as $change) {
            foreach ($looks as $formula) {
                if (Walk::mayRead($formula->tree, $change->field)) {
                    return true;
                }
            }
        }

        return false;
    }
}
