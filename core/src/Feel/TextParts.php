<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel;

use Sorvel\Core\Feel\Node\Arithmetic;
use Sorvel\Core\Feel\Node\Call;
use Sorvel\Core\Feel\Node\Comparison;
use Sorvel\Core\Feel\Node\IfThenElse;
use Sorvel\Core\Feel\Node\Literal;
use Sorvel\Core\Feel\Node\Name;

/**
 * A text put together with "+", as parts side by side: a view of the formula's tree, and the way back. Reading a
 * formula and writing it again gives the same tree.
 *
 * A part is free text `{text}`, or a value `{of: formula, string: bool}`. Where an empty value would leave the whole
 * text empty (10.3.2.12: null and a text add up to null), `empty: nothing` leaves out the value alone, together with
 * the texts `before` and `after` it.
 *
 * @phpstan-type Part array{text?: string, of?: string, string?: bool, empty?: 'nothing'|'all', before?: string, after?: string}
 */
final class TextParts
{
    /** @return list<array<string, mixed>>|null null where the formula is no text put together so */
    public static function read(string $source): ?array
    {
        if (ConditionLines::hasComment($source)) {
            return null;
        }
        $parts = [];
        foreach (self::chain(Formula::parse($source)->tree) as $node) {
            $part = self::part($node);
            if ($part === null) {
                return null;
            }
            $parts[] = $part;
        }

        return $parts;
    }

    /**
     * @param  list<array<string, mixed>>  $parts
     *
     * @throws FeelError for a formula in it that cannot be read
     * @throws \InvalidArgumentException for what is no part
     */
    public static function write(array $parts): string
    {
        if ($parts === []) {
            return 'null';
        }
        $nodes = array_map(self::node(...), $parts);
        // two numbers side by side would be added up
        if (count($nodes) > 1 && ! self::isText($nodes[0]) && ! self::isText($nodes[1])) {
            array_unshift($nodes, new Literal('', 0, 0));
        }

        return (new Printer)->print(self::joined($nodes));
    }

    /** @return array<string, mixed>|null */
    private static function part(Node $node): ?array
    {
        if ($node instanceof Literal) {
            return is_string($node->value) ? ['text' => $node->value] : null;
        }
        if ($node instanceof IfThenElse) {
            return self::optional($node);
        }
        if ($node instanceof Arithmetic || $node instanceof Comparison) {
            return null;
        }

        return [...self::value($node), 'empty' => 'all', 'before' => '', 'after' => ''];
    }

    /** @return array{of: string, string: bool} */
    private static function value(Node $node): array
    {
        $inner = $node instanceof Call && $node->function instanceof Name && $node->function->name === 'string' && array_keys($node->arguments) === [0] ? $node->arguments[0] : null;

        return ['of' => (new Printer)->print($inner ?? $node), 'string' => $inner !== null];
    }

    /**
     * `if x = null then "" else before + x + after`
     *
     * @return array<string, mixed>|null
     */
    private static function optional(IfThenElse $node): ?array
    {
        $when = $node->condition;
        $isNull = $when instanceof Comparison && $when->operator === '=' && $when->right instanceof Literal && $when->right->value === null;
        if (! $isNull || ! $node->then instanceof Literal || $node->then->value !== '') {
            return null;
        }
        $chain = self::chain($node->else);
        $before = count($chain) > 1 ? self::text($chain[0]) : null;
        $after = count($chain) > 1 ? self::text($chain[count($chain) - 1]) : null;
        $middle = array_slice($chain, $before === null ? 0 : 1, count($chain) - ($before === null ? 0 : 1) - ($after === null ? 0 : 1));
        if (count($middle) !== 1 || $middle[0] instanceof Literal || $before === '' || $after === '') {
            return null;
        }
        $value = self::value($middle[0]);

        return $value['of'] === (new Printer)->print($when->left) ? [...$value, 'empty' => 'nothing', 'before' => $before ?? '', 'after' => $after ?? ''] : null;
    }

    private static function text(Node $node): ?string
    {
        return $node instanceof Literal && is_string($node->value) ? $node->value : null;
    }

    /** @return non-empty-list<Node> */
    private static function chain(Node $node): array
    {
        return $node instanceof Arithmetic && $node->operator === '+' ? [...self::chain($node->left), $node->right] : [$node];
    }

    /** @param  array<string, mixed>  $part */
    private static function node(array $part): Node
    {
        if (isset($part['text'])) {
            return new Literal(is_string($part['text']) ? $part['text'] : '', 0, 0);
        }
        if (! is_string($part['of'] ?? null) || trim($part['of']) === '') {
            throw new \InvalidArgumentException('A part is a text, or a value "of" a formula.');
        }
        $of = Formula::parse($part['of'])->tree;
        $value = ($part['string'] ?? false) === true ? new Call(new Name('string', 0, 0), [$of], 0, 0) : $of;
        if (($part['empty'] ?? 'all') !== 'nothing') {
            return $value;
        }
        $side = fn (string $key): array => is_string($part[$key] ?? null) && $part[$key] !== '' ? [new Literal($part[$key], 0, 0)] : [];

        return new IfThenElse(
            new Comparison('=', $of, new Literal(null, 0, 0), 0, 0), new Literal('', 0, 0),
            self::joined([...$side('before'), $value, ...$side('after')]), 0, 0,
        );
    }

    /** @param  non-empty-list<Node>  $nodes */
    private static function joined(array $nodes): Node
    {
        $node = array_shift($nodes);
        foreach ($nodes as $next) {
            $node = new Arithmetic('+', $node, $next, 0, 0);
        }

        return $node;
    }

    private static function isText(Node $node): bool
    {
        return $node instanceof IfThenElse || self::text($node) !== null || ($node instanceof Call && $node->function instanceof Name && $node->function->name === 'string');
    }
}
