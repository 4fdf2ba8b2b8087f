<?php

declare(strict_types=1);

namespace Sorvel\Core\Finding\Check;

use Sorvel\Core\Finding\Atom;
use Sorvel\Core\Finding\Book;
use Sorvel\Core\Finding\Check;
use Sorvel\Core\Finding\Finding;
use Sorvel\Core\Finding\KnownType;
use Sorvel\Core\Finding\Partition;
use Sorvel\Core\Finding\Weight;
use Sorvel\Core\Rule\Rule;
use Sorvel\Core\Table\HitPolicy;
use Sorvel\Core\Table\Input;
use Sorvel\Core\Table\Row;
use Sorvel\Core\Table\Table;

/** Rows that are never reached, values that no row fits, and rows that fit at once where only one may; each with an example. */
final class GridsAndTables implements Check
{
    public function look(Book $book): iterable
    {
        foreach ($book->rulebook->tables as $table) {
            yield from $this->table($table, $book);
        }
        foreach ($book->rules() as $rule) {
            yield from $this->rule($rule, $book);
        }
    }

    /** @return iterable<Finding> */
    private function table(Table $table, Book $book): iterable
    {
        $types = array_map(fn (Input $i): KnownType => $i->field === null ? KnownType::any() : KnownType::ofField($i->field, $book->rulebook->types), $table->inputs);
        $labels = array_map(fn (Input $i): string => $i->label, $table->inputs);
        $seen = $this->seen($table->rows, $types, $labels, $table->hit === HitPolicy::First, $table->hit === HitPolicy::Unique);
        if ($seen['gap'] !== null && $table->default === [] && ! in_array($table->hit, [HitPolicy::Collect, HitPolicy::CollectCount, HitPolicy::RuleOrder, HitPolicy::OutputOrder], true)) {
            yield new Finding(
                'gap', Weight::Attention, 'tables', $table->key, '', sprintf('No row of "%s" fits when %s%s.', $table->title, $seen['gap'], self::more($seen['gaps'])),
                'The table then gives nothing, and what is set from it stays empty or is left alone.', 'Add a row for it, or a default at the foot of the table.',
            );
        }
        if ($seen['overlap'] !== null) {
            [$rows, $example] = $seen['overlap'];
            yield new Finding(
                'overlap', Weight::Blocking, 'tables', $table->key, '/rows/'.$rows[1], sprintf('Rows %d and %d of "%s" fit at once when %s%s.', $rows[0] + 1, $rows[1] + 1, $table->title, $example, self::more($seen['overlaps'])),
                'Only one row may fit in this table, so it gives nothing then.', 'Tighten one of the two rows, or let the first row that fits decide.',
            );
        }
        foreach ($seen['unreached'] as $row => $by) {
            yield new Finding(
                'row_never_reached', Weight::Attention, 'tables', $table->key, '/rows/'.$row, sprintf('Row %d of "%s" is never reached: %s.', $row + 1, $table->title, $by),
                'What it says will never come about, although it reads as if it would.', 'Move it up, tighten the rows above it, or remove it.',
            );
        }
    }

    /** @return iterable<Finding> */
    private function rule(Rule $rule, Book $book): iterable
    {
        if ($rule->checks === []) {
            return;
        }
        $types = array_map(fn ($check): KnownType => $book->known($rule, $check), $rule->checks);
        $labels = array_map(fn ($check, KnownType $type): string => $type->field !== null && preg_match('~^\w+$~', $check->source) === 1 ? $type->field->label : $check->source, $rule->checks, $types);
        $seen = $this->seen($rule->rows, $types, $labels, ! $rule->everyRow, false);
        if ($seen['gap'] !== null && count($rule->rows) > 1 && ! $rule->everyRow) {
            yield new Finding(
                'gap', Weight::Note, 'rules', $rule->key, '/rows', sprintf('No row of "%s" fits when %s%s.', $rule->title, $seen['gap'], self::more($seen['gaps'])),
                'The rule looks then and does nothing; whether that is meant cannot be seen from the grid.', 'If it is meant, accept this with the reason; else add a row.',
            );
        }
        foreach ($seen['unreached'] as $row => $by) {
            yield new Finding(
                'row_never_reached', Weight::Attention, 'rules', $rule->key, '/rows/'.$row, sprintf('Row %d of "%s" is never reached: %s.', $row + 1, $rule->title, $by),
                'What it says will never come about, although it reads as if it would.', 'Move it up, tighten the rows above it, or remove it.',
            );
        }
    }

    /**
     * @param  list<Row>  $rows
     * @param  list<KnownType>  $types
     * @param  list<string>  $labels
     * @return array{gap: string|null, gaps: int, overlap: array{array{int, int}, string}|null, overlaps: int, unreached: array<int, string>}
     */
    private function seen(array $rows, array $types, array $labels, bool $first, bool $unique): array
    {
        $partition = new Partition($rows, $types);
        [$gap, $gaps, $overlap, $overlaps] = [null, 0, null, 0];
        $reached = [];
        $covered = [];
        foreach ($partition->combinations() as [$atoms, $sure, $maybe]) {
            if ($sure === [] && $maybe === [] && array_filter($atoms, fn (?Atom $a): bool => $a?->isEmpty() === true) === []) {
                $gaps++;
                $gap ??= self::words($atoms, $labels);
            }
            if ($unique && count($sure) > 1) {
                $overlaps++;
                $overlap ??= [[$sure[0], $sure[1]], self::words($atoms, $labels)];
            }
            $winner = $sure[0] ?? PHP_INT_MAX;
            foreach ([...$sure, ...$maybe] as $row) {
                if (! $first || $row <= $winner) {
                    $reached[$row] = true;
                } else {
                    $covered[$row][(int) $winner] = (int) $winner + 1;
                }
            }
        }
        $unreached = [];
        foreach ($partition->isCut ? [] : array_keys($rows) as $row) {
            if (! isset($reached[$row])) {
                $before = $covered[$row] ?? [];
                sort($before);
                $unreached[$row] = $before === [] ? 'no value meets all its cells' : 'whatever fits it fits '.(count($before) === 1 ? 'row ' : 'rows ').Book::and(array_map(strval(...), $before)).' before';
            }
        }

        return ['gap' => $gap, 'gaps' => $gaps, 'overlap' => $overlap, 'overlaps' => $overlaps, 'unreached' => $unreached];
    }

    /**
     * @param  list<Atom|null>  $atoms
     * @param  list<string>  $labels
     */
    private static function words(array $atoms, array $labels): string
    {
        $words = [];
        foreach ($atoms as $column => $atom) {
            if ($atom !== null) {
                $words[] = $labels[$column].' '.$atom->words;
            }
        }

        return $words === [] ? 'anything is given' : Book::and($words);
    }

    private static function more(int $count): string
    {
        return $count > 1 ? sprintf(' (and in %d more %s)', $count - 1, $count === 2 ? 'case' : 'cases') : '';
    }
}
