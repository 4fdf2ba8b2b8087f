<?php

declare(strict_types=1);

namespace Sorvel\Core\Finding;

use Brick\Math\BigDecimal;
use Sorvel\Core\Feel\Node;
use Sorvel\Core\Feel\Node\Comparison;
use Sorvel\Core\Feel\Node\Literal;
use Sorvel\Core\Feel\Node\Logic;
use Sorvel\Core\Feel\Node\Negation;
use Sorvel\Core\Feel\Node\RangeOf;
use Sorvel\Core\Feel\Number;
use Sorvel\Core\Feel\Printer;
use Sorvel\Core\Feel\Values;

/** Finds tests that no value can meet, or that every value of a field meets. */
final class Impossible
{
    private const TURNED = ['<' => '>', '<=' => '>=', '>' => '<', '>=' => '<=', '=' => '=', '!=' => '!='];

    /** What is wrong with holding a field of given bounds against a number; null when nothing is. */
    public static function bounded(string $operator, KnownType $left, Node $right): ?string
    {
        $number = self::number($right);
        $field = $left->field;
        if ($left->what !== 'number' || $field === null || $number === null) {
            return null;
        }
        $say = fn (string $how, string $bound): string => sprintf('%s %s, so this test is %s.', $field->label, $bound, $how);
        [$min, $max] = $field->bounds();
        $below = $min === null ? null : Number::compare($number, $min);
        $above = $max === null ? null : Number::compare($number, $max);
        $least = 'is never below '.($min === null ? '' : Number::text($min));
        $most = 'is never above '.($max === null ? '' : Number::text($max));

        return match (true) {
            $below !== null && in_array($operator, ['<', '<=', '='], true) && ($below < 0 || ($below === 0 && $operator === '<')) => $say('never met', $least),
            $above !== null && in_array($operator, ['>', '>=', '='], true) && ($above > 0 || ($above === 0 && $operator === '>')) => $say('never met', $most),
            $below !== null && in_array($operator, ['>', '>='], true) && ($below < 0 || ($below === 0 && $operator === '>=')) => $say('always met when the field is filled; write != null if that is meant', $least),
            $above !== null && in_array($operator, ['<', '<='], true) && ($above > 0 || ($above === 0 && $operator === '<=')) => $say('always met when the field is filled; write != null if that is meant', $most),
            default => null,
        };
    }

    public static function turned(string $operator): string
    {
        return self::TURNED[$operator];
    }

    public static function isEmptyRange(RangeOf $range): bool
    {
        if (! $range->start instanceof Literal || ! $range->end instanceof Literal) {
            return false;
        }
        $closed = $range->startIncluded && $range->endIncluded;

        return Values::ordered($closed ? '<=' : '<', $range->start->value, $range->end->value) === false;
    }

    /**
     * The second of two parts that hold one thing against different values: it cannot be both, so "and" is never met,
     * and it is always other than one of them, so "or" is always met. Null when there is none.
     */
    public static function contradiction(Logic $node): ?Comparison
    {
        $seen = [];
        $operator = $node->operator === 'and' ? '=' : '!=';
        foreach (self::chain($node, $node->operator) as $part) {
            if (! $part instanceof Comparison || $part->operator !== $operator || ! $part->right instanceof Literal) {
                continue;
            }
            $left = (new Printer)->print($part->left);
            if (isset($seen[$left]) && Values::equal($seen[$left], $part->right->value) === false) {
                return $part;
            }
            $seen[$left] = $part->right->value;
        }

        return null;
    }

    /** @return list<Node> the parts that one operator joins, in order */
    private static function chain(Node $node, string $operator): array
    {
        return $node instanceof Logic && $node->operator === $operator
            ? [...self::chain($node->left, $operator), ...self::chain($node->right, $operator)]
            : [$node];
    }

    private static function number(Node $node): int|BigDecimal|null
    {
        $value = match (true) {
            $node instanceof Literal => $node->value,
            $node instanceof Negation && $node->of instanceof Literal && Number::is($node->of->value) => Number::negate($node->of->value),
            default => null,
        };

        return is_int($value) || $value instanceof BigDecimal ? $value : null;
    }
}
