<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel;

use Sorvel\Core\Feel\Node\AnyValue;
use Sorvel\Core\Feel\Node\Arithmetic;
use Sorvel\Core\Feel\Node\Between;
use Sorvel\Core\Feel\Node\Call;
use Sorvel\Core\Feel\Node\Comparison;
use Sorvel\Core\Feel\Node\ContextOf;
use Sorvel\Core\Feel\Node\Filter;
use Sorvel\Core\Feel\Node\ForReturn;
use Sorvel\Core\Feel\Node\FunctionOf;
use Sorvel\Core\Feel\Node\IfThenElse;
use Sorvel\Core\Feel\Node\In;
use Sorvel\Core\Feel\Node\InstanceTest;
use Sorvel\Core\Feel\Node\ListOf;
use Sorvel\Core\Feel\Node\Literal;
use Sorvel\Core\Feel\Node\Logic;
use Sorvel\Core\Feel\Node\Name;
use Sorvel\Core\Feel\Node\Negation;
use Sorvel\Core\Feel\Node\Path;
use Sorvel\Core\Feel\Node\Quantified;
use Sorvel\Core\Feel\Node\RangeOf;
use Sorvel\Core\Feel\Node\UnaryComparison;
use Sorvel\Core\Feel\Node\UnaryNot;
use Sorvel\Core\Feel\Temporal\Temporal;

/** A tree back to text; parsing the text gives the same tree. */
final class Printer
{
    public function print(Node $node): string
    {
        return match ($node::class) {
            Literal::class => $this->literal($node->value),
            Name::class => $node->name,
            AnyValue::class => '-',
            Path::class => $this->tight($node->of).'.'.$node->name,
            Filter::class => $this->tight($node->of).'['.$this->print($node->by).']',
            Call::class => $this->tight($node->function).'('.$this->arguments($node->arguments).')',
            ListOf::class => '['.$this->list($node->items).']',
            ContextOf::class => '{'.implode(', ', array_map(fn (array $e): string => $this->key($e[0]).': '.$this->print($e[1]), $node->entries)).'}',
            RangeOf::class => $this->range($node),
            Negation::class => '-'.$this->operand($node->of, 6),
            Arithmetic::class, Comparison::class, Logic::class => $this->operand($node->left, $this->strength($node)).' '.$node->operator.' '.$this->operand($node->right, $this->strength($node) + 1),
            Between::class => $this->operand($node->value, 3).' between '.$this->operand($node->low, 4).' and '.$this->operand($node->high, 4),
            In::class => $this->operand($node->value, 3).' in ('.$this->list($node->tests).')',
            UnaryComparison::class => $node->operator.' '.$this->operand($node->right, 4),
            UnaryNot::class => 'not('.$this->list($node->tests).')',
            IfThenElse::class => 'if '.$this->print($node->condition).' then '.$this->print($node->then).' else '.$this->print($node->else),
            Quantified::class => $node->kind.' '.$this->iterators($node->iterators).' satisfies '.$this->print($node->satisfies),
            ForReturn::class => 'for '.$this->iterators($node->iterators).' return '.$this->print($node->return),
            FunctionOf::class => 'function('.implode(', ', array_map(fn (array $p): string => $p[0].($p[1] === null ? '' : ': '.$p[1]), $node->parameters)).') '.$this->print($node->body),
            InstanceTest::class => $this->operand($node->value, 3).' instance of '.$node->type,
            default => throw new \LogicException('No printing for '.$node::class),
        };
    }

    /** @param  list<Node>  $tests */
    public function printTests(array $tests): string
    {
        return $this->list($tests);
    }

    private function strength(Node $node): int
    {
        return match (true) {
            $node instanceof IfThenElse, $node instanceof Quantified, $node instanceof ForReturn, $node instanceof FunctionOf => 0,
            $node instanceof Logic => $node->operator === 'or' ? 1 : 2,
            $node instanceof Comparison, $node instanceof Between, $node instanceof In, $node instanceof InstanceTest, $node instanceof UnaryComparison => 3,
            $node instanceof Arithmetic => match ($node->operator) {
                '+', '-' => 4, '*', '/' => 5, default => 6
            },
            $node instanceof Negation => 7,
            default => 8,
        };
    }

    private function operand(Node $node, int $strength): string
    {
        $text = $this->print($node);

        return $this->strength($node) < $strength ? '('.$text.')' : $text;
    }

    private function tight(Node $node): string
    {
        return $this->operand($node, 8);
    }

    private function literal(mixed $value): string
    {
        return match (true) {
            $value === null => 'null',
            is_bool($value) => $value ? 'true' : 'false',
            is_string($value) => self::quote($value),
            $value instanceof \Brick\Math\BigDecimal, is_int($value) => (string) $value,
            $value instanceof Temporal => '@'.self::quote((string) $value),
            default => throw new \LogicException('Not a literal.'),
        };
    }

    public static function quote(string $text): string
    {
        return '"'.strtr($text, ['\\' => '\\\\', '"' => '\\"', "\n" => '\\n', "\t" => '\\t', "\r" => '\\r']).'"';
    }

    private function key(string $key): string
    {
        return preg_match('~^[\p{L}_][\p{L}\p{N}_]*$~u', $key) === 1 ? $key : self::quote($key);
    }

    /** @param  list<Node>  $nodes */
    private function list(array $nodes): string
    {
        return implode(', ', array_map($this->print(...), $nodes));
    }

    /** @param  array<int|string, Node>  $arguments */
    private function arguments(array $arguments): string
    {
        $texts = [];
        foreach ($arguments as $name => $argument) {
            $texts[] = (is_string($name) ? $name.': ' : '').$this->print($argument);
        }

        return implode(', ', $texts);
    }

    /** @param  list<array{string, Node}>  $iterators */
    private function iterators(array $iterators): string
    {
        return implode(', ', array_map(fn (array $i): string => $i[0].' in '.$this->print($i[1]), $iterators));
    }

    private function range(RangeOf $node): string
    {
        if ($node->start === null && $node->end !== null) {
            return '('.($node->endIncluded ? '<= ' : '< ').$this->operand($node->end, 4).')';
        }
        if ($node->end === null && $node->start !== null) {
            return '('.($node->startIncluded ? '>= ' : '> ').$this->operand($node->start, 4).')';
        }
        if ($node->start === null || $node->end === null) {
            throw new \LogicException('A range needs an end.');
        }

        return ($node->startIncluded ? '[' : '(').$this->operand($node->start, 4).'..'.$this->operand($node->end, 4).($node->endIncluded ? ']' : ')');
    }
}
