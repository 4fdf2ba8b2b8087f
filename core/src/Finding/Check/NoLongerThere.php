<?php

declare(strict_types=1);

namespace Sorvel\Core\Finding\Check;

use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Feel\Node;
use Sorvel\Core\Feel\Node\Literal;
use Sorvel\Core\Feel\UnaryTests;
use Sorvel\Core\Feel\Walk;
use Sorvel\Core\Finding\Book;
use Sorvel\Core\Finding\Check;
use Sorvel\Core\Finding\Finding;
use Sorvel\Core\Finding\Weight;
use Sorvel\Core\Rule\AssignChange;

/** Options and fields that are retired, people who are gone or away, and teams with nobody in them, where rules name them. */
final class NoLongerThere implements Check
{
    public function look(Book $book): iterable
    {
        foreach ($book->mentions as $mention) {
            $at = $book->locate($mention->path);
            if ($at === null) {
                continue;
            }
            $option = $mention->option === null ? null : $mention->field->options[$mention->option] ?? null;
            if ($option !== null && ! $option->active) {
                yield self::found($at, sprintf('The option "%s" of %s is retired and still named here.', $option->label, $book->label($mention->field->of.'.'.$mention->field->key)), 'No new ticket can have it: a test for it is met by old tickets only, and setting it is a problem.', 'Name the option that took its place.');
            } elseif ($option === null && ! $mention->field->active) {
                yield self::found($at, sprintf('%s is retired and still %s here.', $book->label($mention->field->of.'.'.$mention->field->key), $mention->writes ? 'changed' : 'read'), 'It takes no new values, so what hangs on it stands still.', 'Use the field that took its place.');
            }
        }
        foreach ($book->rules() as $rule) {
            $owner = $rule->owner === null ? null : $book->rulebook->people[$rule->owner] ?? null;
            if ($owner !== null && ! $owner->active) {
                yield self::found(['rules', $rule->key, '/owner'], sprintf('%s, who owns "%s", is no longer active.', $owner->name, $rule->title), 'Nobody hears of its problems.', 'Give it another owner.');
            }
            foreach ($rule->changes as $i => $change) {
                $there = $change instanceof AssignChange ? array_filter($change->team->members, fn (string $m): bool => ($book->rulebook->people[$m]->active ?? false) && ! ($book->rulebook->people[$m]->away ?? false)) : ['-'];
                if ($change instanceof AssignChange && $there === []) {
                    yield self::found(['rules', $rule->key, '/changes/'.$i], sprintf('Nobody in %s can be assigned: its members are away or no longer active.', $change->team->name), 'The rule assigns nobody, and says so as a problem.', 'Put somebody into the team.');
                }
            }
            foreach ($this->formulas($rule) as $path => $nodes) {
                foreach ($this->people($nodes, $book) as $says) {
                    yield self::found(['rules', $rule->key, $path], $says, 'Who is no longer active cannot be set; who is away may not see it.', 'Name somebody else, or take it from a field or a team.');
                }
            }
        }
    }

    /**
     * @param  array{string, string, string}  $at
     */
    private static function found(array $at, string $says, string $why, string $proposal): Finding
    {
        /** @var 'types'|'tables'|'rules'|'guards'|'mirrors' $kind */
        $kind = $at[0];

        return new Finding('no_longer_there', Weight::Attention, $kind, $at[1], $at[2], $says, $why, $proposal);
    }

    /** @return iterable<string, list<Node>> */
    private function formulas(\Sorvel\Core\Rule\Rule $rule): iterable
    {
        foreach ($rule->rows as $number => $row) {
            foreach ([...$row->if, ...$row->then] as $cell) {
                yield '/rows/'.$number => match (true) {
                    $cell instanceof UnaryTests => $cell->tests,
                    $cell instanceof Formula => [$cell->tree],
                    default => [],
                };
            }
        }
        yield '/only_if' => $rule->onlyIf === null ? [] : [$rule->onlyIf->tree];
    }

    /**
     * @param  list<Node>  $nodes
     * @return iterable<string>
     */
    private function people(array $nodes, Book $book): iterable
    {
        foreach ($nodes as $node) {
            foreach (Walk::all($node) as $inner) {
                $person = $inner instanceof Literal && is_string($inner->value) ? $book->rulebook->people[$inner->value] ?? null : null;
                if ($person !== null && (! $person->active || $person->away)) {
                    yield sprintf('%s, named here, is %s.', $person->name, $person->active ? 'away' : 'no longer active');
                }
            }
        }
    }
}
