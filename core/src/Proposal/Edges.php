<?php

declare(strict_types=1);

namespace Sorvel\Core\Proposal;

use Brick\Math\BigDecimal;
use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Feel\Node;
use Sorvel\Core\Feel\Node\Between;
use Sorvel\Core\Feel\Node\Call;
use Sorvel\Core\Feel\Node\Comparison;
use Sorvel\Core\Feel\Node\In;
use Sorvel\Core\Feel\Node\Literal;
use Sorvel\Core\Feel\Node\Name;
use Sorvel\Core\Feel\Node\Negation;
use Sorvel\Core\Feel\Node\RangeOf;
use Sorvel\Core\Feel\Node\UnaryComparison;
use Sorvel\Core\Feel\Node\UnaryNot;
use Sorvel\Core\Feel\Number;
use Sorvel\Core\Feel\Walk;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\FieldType;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Rulebook;
use Sorvel\Core\Rule\Rule;

/** The bounds that a rule and its tables set to the numbers of a record, each from both sides: the last that is within, the first that is beyond. */
final class Edges
{
    private const TURNED = ['<' => '>', '<=' => '>=', '>' => '<', '>=' => '<='];

    /** @var array<string, array<string, int|float|string>> by field, plain data */
    private array $found = [];

    private function __construct(private readonly RecordType $type)
    {
    }

    /** @return array<string, list<int|float|string>> by field, plain data, as samples write it */
    public static function of(Rule $rule, RecordType $type, Rulebook $rulebook): array
    {
        $edges = new self($type);
        foreach ($rule->checks as $column => $check) {
            foreach ($rule->rows as $row) {
                $edges->tests($check->tree, $row->if[$column]->tests);
            }
        }
        foreach (array_map(fn (Formula $f): Node => $f->tree, $rule->formulas()) as $tree) {
            foreach (Walk::all($tree) as $node) {
                $edges->node($node, $rulebook);
            }
        }

        return array_map(array_values(...), $edges->found);
    }

    private function node(Node $node, Rulebook $rulebook): void
    {
        if ($node instanceof Comparison && isset(self::TURNED[$node->operator])) {
            $this->bound($node->left, $node->operator, $node->right);
            $this->bound($node->right, self::TURNED[$node->operator], $node->left);
        } elseif ($node instanceof Between) {
            $this->bound($node->value, '>=', $node->low);
            $this->bound($node->value, '<=', $node->high);
        } elseif ($node instanceof In) {
            $this->tests($node->value, $node->tests);
        } elseif ($node instanceof Call && $node->function instanceof Name && array_is_list($node->arguments)) {
            foreach (($rulebook->tables[$node->function->name] ?? null)->rows ?? [] as $row) {
                foreach ($row->if as $input => $tests) {
                    isset($node->arguments[$input]) && $this->tests($node->arguments[$input], $tests->tests);
                }
            }
        }
    }

    /** @param  list<Node>  $tests */
    private function tests(Node $of, array $tests): void
    {
        foreach ($tests as $test) {
            if ($test instanceof UnaryComparison && isset(self::TURNED[$test->operator])) {
                $this->bound($of, $test->operator, $test->right);
            } elseif ($test instanceof UnaryNot) {
                $this->tests($of, $test->tests);
            } elseif ($test instanceof RangeOf) {
                $test->start === null || $this->bound($of, $test->startIncluded ? '>=' : '>', $test->start);
                $test->end === null || $this->bound($of, $test->endIncluded ? '<=' : '<', $test->end);
            }
        }
    }

    private function bound(Node $of, string $operator, Node $bound): void
    {
        $field = $of instanceof Name ? $this->type->fields[$of->name] ?? null : null;
        $number = match (true) {
            $bound instanceof Literal && Number::is($bound->value) => $bound->value,
            $bound instanceof Negation && $bound->of instanceof Literal && Number::is($bound->of->value) => Number::negate($bound->of->value),
            default => null,
        };
        if ($field === null || $number === null || ! in_array($field->type, [FieldType::Number, FieldType::Percent], true)) {
            return;
        }
        $step = self::step($field);
        $beyond = in_array($operator, ['>', '<='], true) ? Number::add($number, $step) : Number::subtract($number, $step);
        [$min, $max] = $field->bounds();
        foreach ([$number, $beyond] as $value) {
            if (($min === null || Number::compare($value, $min) >= 0) && ($max === null || Number::compare($value, $max) <= 0)) {
                $this->found[$field->key][Number::text($value)] = Number::json($value);
            }
        }
    }

    /** The least by which two values of a field differ; 1 where it has as many decimals as one likes. */
    public static function step(Field $field): int|BigDecimal
    {
        return $field->decimals === null || $field->decimals === 0 ? 1 : BigDecimal::of('0.'.str_repeat('0', $field->decimals - 1).'1');
    }
}
