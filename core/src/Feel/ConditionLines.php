<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel;

use Sorvel\Core\Feel\Node\Between;
use Sorvel\Core\Feel\Node\Call;
use Sorvel\Core\Feel\Node\Comparison;
use Sorvel\Core\Feel\Node\In;
use Sorvel\Core\Feel\Node\Literal;
use Sorvel\Core\Feel\Node\Logic;
use Sorvel\Core\Feel\Node\Name;
use Sorvel\Core\Feel\Node\Path;

/**
 * A condition as lines in groups: a view of its tree, and the way back. Reading a condition and writing it again gives
 * the same tree.
 *
 * A part is a group `{join: all | any | none, parts: [part, …]}`, a line `{of: formula, test: word, values: [formula, …]}`,
 * or, where it is neither, `{formula: text}`. Parts that were read carry `from` and `to`, byte offsets in the source.
 *
 * @phpstan-type Part array{join?: string, parts?: list<array<string, mixed>>, of?: string, test?: string, values?: list<string>, formula?: string, from?: int, to?: int}
 */
final class ConditionLines
{
    /** Tests that are one operator, by their word. */
    public const OPERATORS = ['is' => '=', 'is_not' => '!=', 'below' => '<', 'at_most' => '<=', 'above' => '>', 'at_least' => '>='];

    /** Tests that are a function of the field and a value. */
    public const FUNCTIONS = ['has' => 'list contains', 'contains' => 'contains', 'starts_with' => 'starts with', 'ends_with' => 'ends with', 'matches' => 'matches'];

    /** Tests that are another one, denied. */
    private const DENIED = ['none_of' => 'one_of', 'has_not' => 'has', 'contains_not' => 'contains', 'no' => 'yes', 'not_between' => 'between', 'not_open' => 'open'];

    /** Tests that take no value. */
    private const BARE = ['empty', 'filled', 'yes', 'no', 'changed', 'open', 'not_open'];

    /** @return array<string, mixed>|null a group; null where lines would lose something, or say no more than the formula */
    public static function read(string $source): ?array
    {
        if (self::hasComment($source)) {
            return null;
        }
        $part = self::part(Formula::parse($source)->tree);
        if (isset($part['formula'])) {
            return null;
        }

        return isset($part['join']) ? $part : ['join' => 'all', 'parts' => [$part], 'from' => $part['from'] ?? 0, 'to' => $part['to'] ?? 0];
    }

    public static function hasComment(string $source): bool
    {
        return preg_match('~//|/\*~', (string) preg_replace('~"(?:[^"\\\\]|\\\\.)*"~', '""', $source)) === 1;
    }

    /**
     * @param  array<string, mixed>  $part
     *
     * @throws FeelError for a formula in it that cannot be read; its message names the line
     * @throws \InvalidArgumentException for what is no part
     */
    public static function write(array $part): string
    {
        return (new Printer)->print(self::node($part));
    }

    /** @return array<string, mixed> */
    private static function part(Node $node): array
    {
        $at = ['from' => $node->from, 'to' => $node->to];
        if ($node instanceof Logic) {
            return ['join' => $node->operator === 'and' ? 'all' : 'any', 'parts' => array_map(self::part(...), self::chain($node, $node->operator)), ...$at];
        }
        $line = self::line($node);
        if ($line !== null) {
            return [...$line, ...$at];
        }
        $denied = self::denied($node);
        if ($denied !== null) {
            $line = self::line($denied);
            $word = $line === null ? false : array_search($line['test'], self::DENIED, true);
            if ($line !== null && $word !== false) {
                return [...$line, 'test' => $word, ...$at];
            }
            $parts = $denied instanceof Logic && $denied->operator === 'or' ? self::chain($denied, 'or') : [$denied];

            return ['join' => 'none', 'parts' => array_map(self::part(...), $parts), ...$at];
        }

        return ['formula' => (new Printer)->print($node), ...$at];
    }

    /** @return array{of: string, test: string, values: list<string>}|null */
    private static function line(Node $node): ?array
    {
        $print = (new Printer)->print(...);
        if ($node instanceof Comparison) {
            if ($node->right instanceof Literal && $node->right->value === null && in_array($node->operator, ['=', '!='], true)) {
                return ['of' => $print($node->left), 'test' => $node->operator === '=' ? 'empty' : 'filled', 'values' => []];
            }

            return ['of' => $print($node->left), 'test' => (string) array_search($node->operator, self::OPERATORS, true), 'values' => [$print($node->right)]];
        }
        if ($node instanceof In && array_filter($node->tests, fn (Node $t): bool => ! $t instanceof Literal) === []) {
            return ['of' => $print($node->value), 'test' => 'one_of', 'values' => array_map($print, $node->tests)];
        }
        if ($node instanceof Between) {
            return ['of' => $print($node->value), 'test' => 'between', 'values' => [$print($node->low), $print($node->high)]];
        }
        if ($node instanceof Name || $node instanceof Path) {
            return ['of' => $print($node), 'test' => 'yes', 'values' => []];
        }
        if ($node instanceof Call && $node->function instanceof Name && array_is_list($node->arguments)) {
            if ($node->function->name === 'changed' && count($node->arguments) === 1 && $node->arguments[0] instanceof Literal && is_string($node->arguments[0]->value)) {
                return ['of' => $node->arguments[0]->value, 'test' => 'changed', 'values' => []];
            }
            if ($node->function->name === 'open' && count($node->arguments) === 1) {
                return ['of' => $print($node->arguments[0]), 'test' => 'open', 'values' => []];
            }
            $word = array_search($node->function->name, self::FUNCTIONS, true);
            if ($word !== false && count($node->arguments) === 2) {
                return ['of' => $print($node->arguments[0]), 'test' => $word, 'values' => [$print($node->arguments[1])]];
            }
        }

        return null;
    }

    private static function denied(Node $node): ?Node
    {
        return $node instanceof Call && $node->function instanceof Name && $node->function->name === 'not' && array_keys($node->arguments) === [0] ? $node->arguments[0] : null;
    }

    /** @return non-empty-list<Node> */
    private static function chain(Node $node, string $operator): array
    {
        return $node instanceof Logic && $node->operator === $operator ? [...self::chain($node->left, $operator), $node->right] : [$node];
    }

    /** @param  array<string, mixed>  $part */
    private static function node(array $part): Node
    {
        if (isset($part['formula'])) {
            return self::parse($part['formula']);
        }
        if (isset($part['join'])) {
            return self::group((string) $part['join'], is_array($part['parts'] ?? null) ? array_values($part['parts']) : []);
        }
        $test = is_string($part['test'] ?? null) ? $part['test'] : '';
        if (isset(self::DENIED[$test])) {
            return self::not(self::node([...$part, 'test' => self::DENIED[$test]]));
        }
        $values = is_array($part['values'] ?? null) ? array_map(self::parse(...), array_values($part['values'])) : [];
        $least = in_array($test, self::BARE, true) ? 0 : ($test === 'between' ? 2 : 1);
        if (count($values) < $least) {
            throw new \InvalidArgumentException(sprintf('A line with the test "%s" needs %s.', $test, $least === 1 ? 'a value' : 'two values'));
        }
        if ($test === 'changed') {
            return new Call(new Name('changed', 0, 0), [new Literal((string) ($part['of'] ?? ''), 0, 0)], 0, 0);
        }
        $of = self::parse($part['of'] ?? '');

        return match (true) {
            isset(self::OPERATORS[$test]) => new Comparison(self::OPERATORS[$test], $of, $values[0], 0, 0),
            isset(self::FUNCTIONS[$test]) => new Call(new Name(self::FUNCTIONS[$test], 0, 0), [$of, $values[0]], 0, 0),
            $test === 'empty', $test === 'filled' => new Comparison($test === 'empty' ? '=' : '!=', $of, new Literal(null, 0, 0), 0, 0),
            $test === 'one_of' => new In($of, $values, 0, 0),
            $test === 'between' => new Between($of, $values[0], $values[1], 0, 0),
            $test === 'open' => new Call(new Name('open', 0, 0), [$of], 0, 0),
            $test === 'yes' => $of,
            default => throw new \InvalidArgumentException(sprintf('"%s" is no test of a line.', mb_strimwidth($test, 0, 30, '…'))),
        };
    }

    /** @param  list<mixed>  $parts */
    private static function group(string $join, array $parts): Node
    {
        if (! in_array($join, ['all', 'any', 'none'], true)) {
            throw new \InvalidArgumentException(sprintf('"%s" does not join lines; all, any and none do.', mb_strimwidth($join, 0, 30, '…')));
        }
        $nodes = array_map(fn (mixed $part): Node => self::node(is_array($part) ? $part : []), $parts);
        $node = array_shift($nodes) ?? throw new \InvalidArgumentException('A group needs a line.');
        foreach ($nodes as $next) {
            $node = new Logic($join === 'all' ? 'and' : 'or', $node, $next, 0, 0);
        }

        return $join === 'none' ? self::not($node) : $node;
    }

    private static function not(Node $node): Node
    {
        return new Call(new Name('not', 0, 0), [$node], 0, 0);
    }

    private static function parse(mixed $text): Node
    {
        $source = is_string($text) ? $text : '';
        try {
            return Formula::parse($source)->tree;
        } catch (FeelError $error) {
            throw new FeelError(sprintf('“%s”: %s', mb_strimwidth($source, 0, 60, '…'), $error->getMessage()), $error->from, $error->to, $error->expected);
        }
    }
}
