<?php

declare(strict_types=1);

namespace Sorvel\Core\Format;

use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Feel\UnaryTests;
use Sorvel\Core\Finding\FormulaCheck;
use Sorvel\Core\Finding\KnownType;
use Sorvel\Core\Finding\Names;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Team;

/** What the parts of a rule are read against: the types that it is on, and the names that its formulas may use there. */
final class RuleContext
{
    /** @var array<string, RecordType|null> by name, what look-ups of records hold */
    public array $held = [];

    /**
     * @param  non-empty-list<RecordType>  $on
     * @param  non-empty-list<Names>  $names  one a type
     * @param  array<string, RecordType>  $types
     * @param  array<string, Team>  $teams
     */
    public function __construct(
        public readonly RulebookBuilder $book,
        public readonly array $on,
        public array $names,
        public readonly array $types,
        public readonly array $teams,
    ) {
    }

    public function formula(string $path, mixed $text, ?KnownType $must = null): ?Formula
    {
        $formula = $this->book->formula($path, $text);
        if ($formula !== null) {
            foreach ($this->names as $names) {
                $this->book->take($path, FormulaCheck::formula($formula, $names, $must));
            }
        }

        return $formula;
    }

    /** What a formula is, on each type. */
    public function known(Formula $formula): KnownType
    {
        return FormulaCheck::formula($formula, $this->names[0])->type;
    }

    /** @param  list<KnownType>  $known  what the tests are held against, by type that the rule runs on */
    public function testsOf(string $path, UnaryTests $tests, array $known): void
    {
        foreach ($this->names as $i => $names) {
            $this->book->take($path, FormulaCheck::tests($tests, $known[$i], $names));
        }
    }

    public function field(string $key, string $path, bool $writes = false): ?Field
    {
        $found = null;
        foreach ($this->on as $type) {
            $field = $this->book->fieldOf($type, $key, $path, $writes);
            $found ??= $field;
        }

        return $found;
    }

    public function name(string $name, KnownType $type): void
    {
        $this->names = array_map(fn (Names $n): Names => $n->with($name, $type), $this->names);
    }

    /** @param  array<string, mixed>  $tree */
    public function only(array $tree, string $path, string $what, string ...$keys): void
    {
        foreach (array_diff(array_keys($tree), $keys) as $key) {
            $this->book->error($path.'/'.$key, sprintf('"%s" means nothing for %s.', $key, $what));
        }
    }
}
