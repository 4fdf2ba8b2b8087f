<?php

declare(strict_types=1);

namespace Sorvel\Core\Rule;

use Brick\Math\BigDecimal;
use Sorvel\Core\Feel\Context;
use Sorvel\Core\Feel\Evaluator;
use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Feel\KnownPaths;
use Sorvel\Core\Feel\Node;
use Sorvel\Core\Feel\Node\AnyValue;
use Sorvel\Core\Feel\Node\Between;
use Sorvel\Core\Feel\Node\Call;
use Sorvel\Core\Feel\Node\Comparison;
use Sorvel\Core\Feel\Node\In;
use Sorvel\Core\Feel\Node\Literal;
use Sorvel\Core\Feel\Node\Logic;
use Sorvel\Core\Feel\Node\Name;
use Sorvel\Core\Feel\Node\RangeOf;
use Sorvel\Core\Feel\Node\UnaryComparison;
use Sorvel\Core\Feel\Node\UnaryNot;
use Sorvel\Core\Feel\Number;
use Sorvel\Core\Feel\Scope;
use Sorvel\Core\Feel\Walk;
use Sorvel\Core\Feel\Warnings;
use Sorvel\Core\Model\Condition;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\FieldType;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Viewer;

/**
 * What a condition on candidates asks of their stored values, so that a store can answer it from an index. It leaves
 * at least those for which the condition holds; the condition itself decides among them.
 */
final class Criteria
{
    /** Fields that a store can find records by. */
    private const FOUND_BY = [
        FieldType::Text, FieldType::Number, FieldType::Percent, FieldType::YesNo, FieldType::Date, FieldType::DateTime, FieldType::Choice,
        FieldType::TwoStepChoice, FieldType::State, FieldType::Person, FieldType::Team, FieldType::Reference,
    ];

    private const TURNED = ['=' => '=', '<' => '>', '<=' => '>=', '>' => '<', '>=' => '<='];

    /** @param  list<array{Field|null, '='|'in'|'<'|'<='|'>'|'>=', list<Node>}>  $parts  field, null for the id; test; what is to be computed for it */
    private function __construct(private readonly array $parts)
    {
    }

    public static function of(?Formula $where, RecordType $type): self
    {
        $parts = [];
        foreach ($where === null ? [] : self::conjuncts($where->tree) as $node) {
            array_push($parts, ...self::part($node, $type));
        }

        return new self($parts);
    }

    /** Whether every record of the type has to be read. */
    public function readsAll(): bool
    {
        return $this->parts === [];
    }

    /** @return list<Node> what is to be computed for them, in order */
    public function nodes(): array
    {
        return array_merge(...array_column($this->parts, 2), ...[[]]);
    }

    /**
     * What {@see conditions} comes to as PHP, when every part asks for equality with something that is as it is stored.
     *
     * @param  KnownPaths  $paths  that read where it is stored
     * @return string|null the source of a list of conditions
     */
    public function source(KnownPaths $paths): ?string
    {
        $conditions = [];
        foreach ($this->parts as [$field, $test, $nodes]) {
            $isExact = $test === '=' && count($nodes) === 1 && ($field === null || ! in_array($field->behavesAs(), [FieldType::Number, FieldType::Percent, FieldType::Date, FieldType::DateTime], true));
            $word = ! $isExact ? null : ($nodes[0] instanceof Literal ? (is_string($nodes[0]->value) || is_bool($nodes[0]->value) ? var_export($nodes[0]->value, true) : null) : $paths->word($nodes[0]));
            if ($word === null) {
                return null;
            }
            $conditions[] = sprintf('(($y=%1$s)===null?new \%2$s(%3$s,\'empty\'):new \%2$s(%3$s,\'in\',[$y]))', $word, Condition::class, var_export($field->key ?? 'id', true));
        }

        return '['.implode(',', $conditions).']';
    }

    /**
     * @param  list<mixed>|null  $computed  the values of {@see nodes}, when they are known
     * @return list<Condition>|null null when nothing can meet them
     */
    public function conditions(Scope $scope, Viewer $viewer, ?array $computed = null): ?array
    {
        $conditions = [];
        $evaluator = $computed === null ? new Evaluator(new Warnings) : null;
        $at = 0;
        foreach ($this->parts as [$field, $test, $nodes]) {
            $values = [];
            $isNull = false;
            foreach ($nodes as $node) {
                $value = $evaluator === null ? $computed[$at++] ?? null : $evaluator->value($node, $scope);
                $isNull = $isNull || $value === null;
                foreach (is_array($value) && $test === 'in' ? $value : [$value] as $one) {
                    $stored = self::stored($one, $field, $viewer);
                    if ($stored !== null) {
                        $values[] = $stored;
                    }
                }
            }
            if ($isNull && $test === '=') {
                // null equals null (table 42)
                $conditions[] = new Condition($field->key ?? 'id', 'empty');
            } elseif ($isNull && $test === 'in') {
                continue;
            } elseif ($values === []) {
                return null;
            } else {
                $conditions[] = new Condition($field->key ?? 'id', $test === '=' ? 'in' : $test, $values);
            }
        }

        return $conditions;
    }

    /** @return list<Node> */
    private static function conjuncts(Node $node): array
    {
        return $node instanceof Logic && $node->operator === 'and' ? [...self::conjuncts($node->left), ...self::conjuncts($node->right)] : [$node];
    }

    /** @return list<array{Field|null, '='|'in'|'<'|'<='|'>'|'>=', list<Node>}> */
    private static function part(Node $node, RecordType $type): array
    {
        if ($node instanceof Comparison && isset(self::TURNED[$node->operator])) {
            foreach ([[$node->left, $node->right, $node->operator], [$node->right, $node->left, self::TURNED[$node->operator]]] as [$of, $value, $operator]) {
                $field = self::field($of, $type);
                if ($field !== false && self::isFree($value, $type) && ($operator === '=' || ($field !== null && self::hasOrder($field)))) {
                    return [[$field, $operator, [$value]]];
                }
            }
        }
        if ($node instanceof Between) {
            $field = self::field($node->value, $type);
            if ($field instanceof Field && self::hasOrder($field) && self::isFree($node->low, $type) && self::isFree($node->high, $type)) {
                return [[$field, '>=', [$node->low]], [$field, '<=', [$node->high]]];
            }
        }
        if ($node instanceof In) {
            $field = self::field($node->value, $type);
            $plain = array_filter($node->tests, fn (Node $t): bool => $t instanceof UnaryComparison || $t instanceof UnaryNot || $t instanceof RangeOf || $t instanceof AnyValue || ! self::isFree($t, $type)) === [];

            return $field !== false && $plain ? [[$field, 'in', $node->tests]] : [];
        }
        $isNot = $node instanceof Call && $node->function instanceof Name && $node->function->name === 'not' && count($node->arguments) === 1;
        $of = $isNot ? array_values($node->arguments)[0] : $node;
        $field = self::field($of, $type);

        return $field instanceof Field && $field->behavesAs() === FieldType::YesNo ? [[$field, '=', [new Literal(! $isNot, $node->from, $node->to)]]] : [];
    }

    /** @return Field|false|null null for the id; false when it is no field that records are found by */
    private static function field(Node $node, RecordType $type): Field|false|null
    {
        if (! $node instanceof Name) {
            return false;
        }
        if ($node->name === 'id') {
            return null;
        }
        $field = $type->fields[$node->name] ?? null;

        return $field !== null && in_array($field->behavesAs(), self::FOUND_BY, true) ? $field : false;
    }

    private static function hasOrder(Field $field): bool
    {
        return in_array($field->behavesAs(), [FieldType::Number, FieldType::Percent, FieldType::Date, FieldType::DateTime], true);
    }

    /** Whether it can be computed before there is a candidate. */
    private static function isFree(Node $node, RecordType $type): bool
    {
        foreach (Walk::names($node) as $name) {
            if ($name === 'id' || isset($type->fields[$name])) {
                return false;
            }
        }

        return true;
    }

    /** As records store it; null when no record can. */
    private static function stored(mixed $value, ?Field $field, Viewer $viewer): string|int|bool|BigDecimal|null
    {
        if ($value instanceof Context) {
            return $value->identity();
        }
        if (is_bool($value) || Number::is($value)) {
            return $value;
        }
        if (is_string($value) && ($field === null || ! in_array($field->behavesAs(), [FieldType::Date, FieldType::DateTime], true))) {
            return $value;
        }
        try {
            $stored = $value === null || $field === null ? null : $field->kind->fit($value, $field, $viewer, byRule: true);

            return is_string($stored) || is_int($stored) || is_bool($stored) || $stored instanceof BigDecimal ? $stored : null;
        } catch (Misfit) {
            return null;
        }
    }
}
