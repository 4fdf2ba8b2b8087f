<?php

declare(strict_types=1);

namespace Sorvel\Core\Finding;

use Sorvel\Core\Feel\MapScope;
use Sorvel\Core\Feel\Warnings;
use Sorvel\Core\Table\Row;

/**
 * Goes over every combination of what the columns of a grid or a table may be, atom by atom, and tells which rows fit.
 * A column whose tests read more than its value may go either way.
 */
final class Partition
{
    private const MOST = 60_000;

    /** @var list<list<Atom>|null> by column */
    public readonly array $atoms;

    /** @var array<int, array<int, array<int, bool|null>>> by row, column and atom; null: it may go either way */
    private array $holds = [];

    private int $steps = 0;

    /** Whether there were too many combinations to go over all. */
    public bool $isCut = false;

    /**
     * @param  list<Row>  $rows
     * @param  list<KnownType>  $types  of the columns
     */
    public function __construct(private readonly array $rows, array $types)
    {
        $atoms = [];
        foreach ($types as $column => $type) {
            $atoms[] = Atoms::of(array_map(fn (Row $r) => $r->if[$column], $rows), $type);
        }
        $this->atoms = $atoms;
        $scope = new MapScope;
        foreach ($rows as $number => $row) {
            foreach ($atoms as $column => $list) {
                foreach ($list ?? [null] as $i => $atom) {
                    $this->holds[$number][$column][$i] = $row->if[$column]->alwaysHolds() ? true : ($atom === null ? null : $row->if[$column]->hold($atom->value, $scope, new Warnings) === true);
                }
            }
        }
    }

    /** @return iterable<array{list<Atom|null>, list<int>, list<int>}> a combination, one atom a column (null: any); rows that fit for sure; rows that may fit */
    public function combinations(): iterable
    {
        yield from $this->from(0, [], array_keys($this->rows), array_fill_keys(array_keys($this->rows), true));
    }

    /**
     * How far each cell can be seen: whether any value makes it hold, or fail, where it is looked at at all.
     *
     * @param  bool  $first  only the first row that fits acts, and those after it are not looked at
     * @return array<int, array<int, int>>|null by row and column: 1 can hold, 2 can fail, 3 both; null when there are too many combinations
     */
    public function reach(bool $first): ?array
    {
        $count = array_product(array_map(fn (?array $list): int => count($list ?? [null]), $this->atoms));
        if ($count > 20_000) {
            return null;
        }
        $reach = [];
        for ($combination = 0; $combination < $count; $combination++) {
            $at = [];
            $rest = $combination;
            foreach ($this->atoms as $column => $list) {
                $at[$column] = $rest % count($list ?? [null]);
                $rest = intdiv($rest, count($list ?? [null]));
            }
            foreach ($this->holds as $row => $columns) {
                $sure = true;
                foreach ($columns as $column => $atoms) {
                    $holds = $atoms[$at[$column]];
                    $reach[$row][$column] = ($reach[$row][$column] ?? 0) | ($holds === null ? 3 : ($holds ? 1 : 2));
                    $sure = $sure && $holds === true;
                    if ($holds === false) {
                        continue 2;
                    }
                }
                if ($sure && $first) {
                    break;
                }
            }
        }

        return $reach;
    }

    /**
     * @param  list<Atom|null>  $chosen
     * @param  list<int>  $alive  rows that may still fit
     * @param  array<int, bool>  $sure  those of which every column so far holds for sure
     * @return iterable<array{list<Atom|null>, list<int>, list<int>}>
     */
    private function from(int $column, array $chosen, array $alive, array $sure): iterable
    {
        if (++$this->steps > self::MOST) {
            $this->isCut = true;

            return;
        }
        if ($column === count($this->atoms) || $alive === []) {
            $certain = array_values(array_filter($alive, fn (int $row): bool => $sure[$row]));
            yield [[...$chosen, ...array_fill(0, count($this->atoms) - $column, null)], $certain, array_values(array_diff($alive, $certain))];

            return;
        }
        $dull = array_filter($alive, fn (int $row): bool => ! $this->rows[$row]->if[$column]->alwaysHolds()) === [];
        foreach ($dull ? [null] : $this->atoms[$column] ?? [null] as $i => $atom) {
            $next = [];
            $certain = $sure;
            foreach ($alive as $row) {
                $holds = $dull ? true : $this->holds[$row][$column][$i];
                if ($holds !== false) {
                    $next[] = $row;
                    $certain[$row] = $certain[$row] && $holds === true;
                }
            }
            yield from $this->from($column + 1, [...$chosen, $atom], $next, $certain);
        }
    }
}
