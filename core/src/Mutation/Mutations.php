<?php

declare(strict_types=1);

namespace Sorvel\Core\Mutation;

use Sorvel\Core\Feel\FeelError;
use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Feel\Node\Comparison;
use Sorvel\Core\Feel\Node\Logic;
use Sorvel\Core\Feel\Node\UnaryComparison;
use Sorvel\Core\Feel\UnaryTests;
use Sorvel\Core\Feel\Walk;
use Sorvel\Core\Finding\Book;
use Sorvel\Core\Finding\KnownType;
use Sorvel\Core\Finding\Partition;
use Sorvel\Core\Rule\AssignChange;
use Sorvel\Core\Rule\Rule;
use Sorvel\Core\Rule\SetChange;
use Sorvel\Core\Rule\When;
use Sorvel\Core\Table\HitPolicy;
use Sorvel\Core\Table\Row;
use Sorvel\Core\Table\Table;

/**
 * Small changes to a rulebook, each of which its samples should notice: a rule off, a start dropped, a condition dropped
 * or turned, a row dropped, two rows swapped, a check or a change cell emptied, a comparison turned, a `when` loosened;
 * the same in tables; a guard or a mirror gone. Changes that change nothing are left out where that can be seen.
 */
final class Mutations
{
    private const TURNED = ['<' => '<=', '<=' => '<', '>' => '>=', '>=' => '>', '=' => '!=', '!=' => '='];

    /** @return iterable<Mutation> in the order of the rulebook */
    public static function of(Book $book): iterable
    {
        foreach ($book->rules() as $rule) {
            foreach (self::rule($rule, $book) as [$at, $says, $changed]) {
                yield new Mutation('rules', $rule->key, $at, $says, $book->rulebook->with(rule: $changed));
            }
        }
        foreach ($book->rulebook->tables as $table) {
            foreach (self::table($table, $book) as [$at, $says, $changed]) {
                yield new Mutation('tables', $table->key, $at, $says, $book->rulebook->with(table: $changed));
            }
        }
        foreach ($book->rulebook->guards as $guard) {
            yield new Mutation('guards', $guard->key, '', 'the guard is gone', $book->rulebook->with(withoutGuard: $guard->key));
        }
        foreach ($book->rulebook->mirrors as $mirror) {
            if (! $mirror->isPaired) {
                yield new Mutation('mirrors', $mirror->key, '', 'the mirror is gone', $book->rulebook->with(withoutMirror: $mirror->key));
            }
        }
    }

    /** @return iterable<array{string, string, Rule}> where, what, and the changed rule */
    private static function rule(Rule $rule, Book $book): iterable
    {
        yield ['', 'the rule is off', $rule->with(enabled: false)];
        foreach (count($rule->starts) > 1 ? $rule->starts : [] as $i => $start) {
            $left = $rule->starts;
            array_splice($left, $i, 1);
            yield ['/starts/'.$i, sprintf('it does not start on "%s" any more', $start->kind()), $rule->with(starts: $left)];
        }
        if ($rule->onlyIf !== null) {
            yield ['/only_if', 'the condition is gone', $rule->with(withoutCondition: true)];
            foreach (self::turned($rule->onlyIf) as [$says, $formula]) {
                yield ['/only_if', $says, $rule->with(onlyIf: $formula)];
            }
        }
        foreach ($rule->changes as $column => $change) {
            $loose = match (true) {
                $change instanceof SetChange && $change->when !== When::Always => new SetChange($change->field, When::Always, $change->of),
                $change instanceof AssignChange && ! $change->isAlways() => $change->always(),
                default => null,
            };
            if ($loose !== null) {
                yield ['/changes/'.$column, 'it sets the field whatever stands there', $rule->with(changes: [...array_slice($rule->changes, 0, $column), $loose, ...array_slice($rule->changes, $column + 1)])];
            }
        }
        $types = array_map(fn (Formula $check): KnownType => $book->known($rule, $check), $rule->checks);
        foreach (self::rows($rule->rows, $types, ! $rule->everyRow, false) as [$at, $says, $rows]) {
            yield [$at, $says, $rule->with(rows: $rows)];
        }
        foreach ($rule->rows as $number => $row) {
            foreach ($row->then as $column => $cell) {
                if ($cell === null) {
                    continue;
                }
                $then = $row->then;
                $then[$column] = null;
                yield ['/rows/'.$number.'/then/'.$column, sprintf('row %d does not change "%s" any more', $number + 1, $rule->changes[$column]->kind().self::field($rule, $column)), $rule->with(rows: array_values(array_replace($rule->rows, [$number => new Row($row->if, array_values($then))])))];
                foreach (self::turned($cell) as [$says, $formula]) {
                    $then[$column] = $formula;
                    yield ['/rows/'.$number.'/then/'.$column, $says, $rule->with(rows: array_values(array_replace($rule->rows, [$number => new Row($row->if, array_values($then))])))];
                }
            }
        }
    }

    private static function field(Rule $rule, int $column): string
    {
        $change = $rule->changes[$column];

        return $change instanceof \Sorvel\Core\Rule\FieldChange ? ' '.$change->field : '';
    }

    /** @return iterable<array{string, string, Table}> */
    private static function table(Table $table, Book $book): iterable
    {
        $types = array_map(fn ($input): KnownType => $input->field === null ? KnownType::any() : KnownType::ofField($input->field, $book->rulebook->types), $table->inputs);
        foreach (self::rows($table->rows, $types, $table->hit === HitPolicy::First, $table->hit === HitPolicy::Unique) as [$at, $says, $rows]) {
            if ($rows !== []) {
                yield [$at, $says, new Table($table->key, $table->title, $table->inputs, $table->outputs, $table->hit, $rows, $table->default)];
            }
        }
    }

    /**
     * @param  list<Row>  $rows
     * @param  list<KnownType>  $types
     * @param  bool  $first  the first row that fits decides
     * @param  bool  $unique  only one row may fit: whatever loosens a row may then give nothing
     * @return iterable<array{string, string, list<Row>}>
     */
    private static function rows(array $rows, array $types, bool $first, bool $unique): iterable
    {
        foreach (count($rows) > 1 ? array_keys($rows) : [] as $number) {
            $left = $rows;
            array_splice($left, $number, 1);
            yield ['/rows/'.$number, sprintf('row %d is gone', $number + 1), $left];
        }
        foreach ($first ? array_slice(array_keys($rows), 1) : [] as $number) {
            if (self::meet($rows[$number - 1], $rows[$number], $types)) {
                $swapped = $rows;
                [$swapped[$number - 1], $swapped[$number]] = [$rows[$number], $rows[$number - 1]];
                yield ['/rows/'.$number, sprintf('rows %d and %d have changed places', $number, $number + 1), array_values($swapped)];
            }
        }
        foreach ($rows as $number => $row) {
            foreach ($row->if as $column => $tests) {
                if ($tests->alwaysHolds()) {
                    continue;
                }
                foreach ([...self::emptied($rows, $number, $column, $types, $first), ...self::turnedTests($tests)] as [$says, $changed]) {
                    $if = $row->if;
                    $if[$column] = $changed;
                    yield ['/rows/'.$number.'/if/'.$column, sprintf('row %d: %s', $number + 1, $says), array_values(array_replace($rows, [$number => new Row(array_values($if), $row->then)]))];
                }
            }
        }
    }

    /**
     * A check cell that holds for anything, unless it can never be seen failing.
     *
     * @param  list<Row>  $rows
     * @param  list<KnownType>  $types
     * @return list<array{string, UnaryTests}>
     */
    private static function emptied(array $rows, int $number, int $column, array $types, bool $first): array
    {
        $reach = (new Partition($rows, $types))->reach($first);
        if ($reach !== null && (($reach[$number][$column] ?? 0) & 2) === 0) {
            return [];
        }

        return [[sprintf('the cell %s holds for anything', $rows[$number]->if[$column]->source), UnaryTests::parse('-')]];
    }

    /**
     * Whether some value meets both, so that their order counts.
     *
     * @param  list<KnownType>  $types
     */
    private static function meet(Row $a, Row $b, array $types): bool
    {
        if (array_map(fn (?Formula $f): ?string => $f?->source, $a->then) === array_map(fn (?Formula $f): ?string => $f?->source, $b->then)) {
            return false;
        }
        foreach ((new Partition([$a, $b], $types))->combinations() as [, $sure, $maybe]) {
            if (count($sure) + count($maybe) > 1) {
                return true;
            }
        }

        return false;
    }

    /** @return list<array{string, Formula}> */
    private static function turned(Formula $formula): array
    {
        $found = [];
        foreach (Walk::all($formula->tree) as $node) {
            if ($node instanceof Comparison || $node instanceof Logic) {
                $new = $node instanceof Comparison ? self::TURNED[$node->operator] : ($node->operator === 'and' ? 'or' : 'and');
                $between = substr($formula->source, $node->left->to, $node->right->from - $node->left->to);
                $place = strrpos($between, $node->operator);
                if ($place === false) {
                    continue;
                }
                $at = $node->left->to + $place;
                $source = substr_replace($formula->source, $new, $at, strlen($node->operator));
                try {
                    $found[] = [sprintf('%s became %s in %s', $node->operator, $new, mb_strimwidth($formula->source, 0, 80, ' …')), Formula::parse($source)];
                } catch (FeelError) {
                    // a bracket stood in between
                }
            }
        }

        return $found;
    }

    /** @return list<array{string, UnaryTests}> */
    private static function turnedTests(UnaryTests $tests): array
    {
        $found = [];
        foreach ($tests->tests as $test) {
            if ($test instanceof UnaryComparison && isset(self::TURNED[$test->operator])) {
                $at = strpos($tests->source, $test->operator, $test->from);
                try {
                    $at === false || $found[] = [sprintf('%s became %s in %s', $test->operator, self::TURNED[$test->operator], $tests->source), UnaryTests::parse(substr_replace($tests->source, self::TURNED[$test->operator], $at, strlen($test->operator)))];
                } catch (FeelError) {
                    continue;
                }
            }
        }

        return $found;
    }
}
