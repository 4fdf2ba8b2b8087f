<?php

declare(strict_types=1);

namespace Sorvel\Core\Finding;

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
            new Check\OpenQuestions, new Check\GridsAndTables, new Check\Circles, new Check\NeverDue, new Check\TwoWriters, new Check\NotSafeToRepeat,
            new Check\WholeTypes, new Check\NoLongerThere, new Check\NoSample, new Check\IdleFields,
        ];
    }
}
