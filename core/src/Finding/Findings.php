<?php

declare(strict_types=1);

namespace Sorvel\Core\Finding;

use Sorvel\Core\Finding\Check\Circles;
use Sorvel\Core\Finding\Check\GridsAndTables;
use Sorvel\Core\Finding\Check\IdleFields;
use Sorvel\Core\Finding\Check\NeverDue;
use Sorvel\Core\Finding\Check\NoLongerThere;
use Sorvel\Core\Finding\Check\NoSample;
use Sorvel\Core\Finding\Check\NotSafeToRepeat;
use Sorvel\Core\Finding\Check\OpenQuestions;
use Sorvel\Core\Finding\Check\TwoWriters;
use Sorvel\Core\Finding\Check\WholeTypes;
use Sorvel\Core\Format\InvalidInput;
use Sorvel\Core\Replay\Sample;

/** Everything that can be said about a rulebook without running it, gravest first, then in the order of the rulebook. */
final class Findings
{
    /**
     * @param  array<array-key, mixed>  $tree  a rulebook
     * @param  list<Sample>  $samples
     * @return list<Finding>
     *
     * @throws InvalidInput
     */
    public static function of(array $tree, array $samples): array
    {
        $book = Book::of($tree, $samples);
        $found = [];
        foreach (self::checks() as $check) {
            foreach ($check->look($book) as $finding) {
                $found[$finding->id] = $finding;
            }
        }
        $found = array_values($found);
        $weights = [Weight::Blocking->value => 0, Weight::Attention->value => 1, Weight::Note->value => 2];
        usort($found, fn (Finding $a, Finding $b): int => [$weights[$a->weight->value], $book->place($a->kind, $a->key)] <=> [$weights[$b->weight->value], $book->place($b->kind, $b->key)]);

        return $found;
    }

    /** @return list<Check> */
    private static function checks(): array
    {
        return [
            new OpenQuestions, new GridsAndTables, new Circles, new NeverDue, new TwoWriters, new NotSafeToRepeat,
            new WholeTypes, new NoLongerThere, new NoSample, new IdleFields,
        ];
    }
}
