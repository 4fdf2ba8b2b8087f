<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel;

use Brick\Math\BigDecimal;
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
use Sorvel\Core\Feel\Temporal\TemporalText;

/**
 * Tokens to a tree, by recursive descent (DMN 1.5, 10.3.1.2).
 */
final class Parser
{
    public const MAX_LENGTH = 20_000;

    private const MAX_DEPTH = 120;

    private const COMPARISONS = ['<', '<=', '>', '>=', '=', '!='];

    /** @var non-empty-list<Token> */
    private array $tokens;

    private int $at = 0;

    private int $depth = 0;

    private function __construct(string $source)
    {
        if (strlen($source) > self::MAX_LENGTH) {
            throw new FeelError(sprintf('The formula is longer than %d characters.', self::MAX_LENGTH), 0, strlen($source));
        }
        $this->tokens = (new Lexer)->tokens($source);
    }

    /** @throws FeelError */
    public static function expression(string $source): Node
    {
        $parser = new self($source);
        if ($parser->current()->kind === TokenKind::End) {
            throw new FeelError('The formula is empty.', 0, strlen($source), 'a value');
        }
        $node = $parser->anExpression();
        $parser->end();

        return $node;
    }

    /**
     * Unary tests (10.3.1.2, grammar rule 15).
     *
     * @return non-empty-list<Node> one of them must hold
     *
     * @throws FeelError
     */
    public static function unaryTests(string $source): array
    {
        $parser = new self($source);
        if ($parser->current()->kind === TokenKind::End) {
            throw new FeelError('The test is empty.', 0, strlen($source), '- where every value fits');
        }
        if ($parser->current()->is('-') && $parser->next()->kind === TokenKind::End) {
            return [new AnyValue(0, strlen($source))];
        }
        $tests = $parser->tests();
        $parser->end();

        return $tests;
    }

    private function current(): Token
    {
        return $this->tokens[$this->at];
    }

    private function next(int $ahead = 1): Token
    {
        return $this->tokens[min($this->at + $ahead, count($this->tokens) - 1)];
    }

    private function take(): Token
    {
        $token = $this->tokens[$this->at];
        if ($token->kind !== TokenKind::End) {
            $this->at++;
        }

        return $token;
    }

    private function takeIf(string $text): bool
    {
        if (! $this->current()->is($text)) {
            return false;
        }
        $this->at++;

        return true;
    }

    private function need(string $text, string $where): Token
    {
        if (! $this->current()->is($text)) {
            throw $this->unexpected('"'.$text.'" '.$where);
        }

        return $this->take();
    }

    private function unexpected(string $expected): FeelError
    {
        $token = $this->current();

        return new FeelError(sprintf('Expected %s, found %s.', $expected, $token->describe()), $token->from, $token->to, $expected);
    }

    private function end(): void
    {
        if ($this->current()->kind !== TokenKind::End) {
            throw $this->unexpected('an operator or the end of the formula');
        }
    }

    private function deeper(): void
    {
        if (++$this->depth > self::MAX_DEPTH) {
            $token = $this->current();
            throw new FeelError(sprintf('The formula is nested more than %d deep.', self::MAX_DEPTH), $token->from, $token->to);
        }
    }

    private function previousEnd(): int
    {
        return $this->at > 0 ? $this->tokens[$this->at - 1]->to : 0;
    }

    /** @return non-empty-list<Node> */
    private function tests(): array
    {
        $token = $this->current();
        if ($token->kind === TokenKind::Name && $token->text === 'not' && $this->next()->is('(')) {
            $this->take();
            $this->take();
            $tests = $this->positiveTests();
            $this->need(')', 'after the tests of not');

            return [new UnaryNot($tests, $token->from, $this->previousEnd())];
        }

        return $this->positiveTests();
    }

    /** @return non-empty-list<Node> */
    private function positiveTests(): array
    {
        $tests = [$this->positiveTest()];
        while ($this->takeIf(',')) {
            $tests[] = $this->positiveTest();
        }

        return $tests;
    }

    private function positiveTest(): Node
    {
        $token = $this->current();
        if ($token->kind === TokenKind::Symbol && in_array($token->text, self::COMPARISONS, true)) {
            $this->take();
            $right = $this->sum();

            return new UnaryComparison($token->text, $right, $token->from, $right->to);
        }

        return $this->anExpression();
    }

    private function anExpression(): Node
    {
        $this->deeper();
        $token = $this->current();
        $node = match (true) {
            $token->is('if') => $this->ifThenElse(),
            $token->is('some'), $token->is('every') => $this->quantified(),
            $token->is('for') => $this->forReturn(),
            $token->is('function') => $this->functionOf(),
            default => $this->disjunction(),
        };
        $this->depth--;

        return $node;
    }

    private function ifThenElse(): Node
    {
        $from = $this->take()->from;
        $condition = $this->anExpression();
        $this->need('then', 'after the condition');
        $then = $this->anExpression();
        $this->need('else', 'after the value for then');
        $else = $this->anExpression();

        return new IfThenElse($condition, $then, $else, $from, $else->to);
    }

    private function quantified(): Node
    {
        $kind = $this->take();
        $iterators = $this->iterators();
        $this->need('satisfies', 'after the list');
        $satisfies = $this->anExpression();

        return new Quantified($kind->text, $iterators, $satisfies, $kind->from, $satisfies->to);
    }

    private function forReturn(): Node
    {
        $from = $this->take()->from;
        $iterators = $this->iterators();
        $this->need('return', 'after the list');
        $return = $this->anExpression();

        return new ForReturn($iterators, $return, $from, $return->to);
    }

    /** @return non-empty-list<array{string, Node}> */
    private function iterators(): array
    {
        $iterators = [];
        do {
            $name = $this->aName('a name for each item');
            $this->need('in', 'after the name');
            $list = $this->anExpression();
            if ($this->current()->is('..')) {
                $this->take();
                $end = $this->anExpression();
                $list = new RangeOf(true, $list, $end, true, $list->from, $end->to);
            }
            $iterators[] = [$name, $list];
        } while ($this->takeIf(','));

        return $iterators;
    }

    private function aName(string $what): string
    {
        if ($this->current()->kind !== TokenKind::Name) {
            throw $this->unexpected($what);
        }

        return $this->take()->text;
    }

    private function disjunction(): Node
    {
        $left = $this->conjunction();
        while ($this->takeIf('or')) {
            $right = $this->conjunction();
            $left = new Logic('or', $left, $right, $left->from, $right->to);
        }

        return $left;
    }

    private function conjunction(): Node
    {
        $left = $this->comparison();
        while ($this->takeIf('and')) {
            $right = $this->comparison();
            $left = new Logic('and', $left, $right, $left->from, $right->to);
        }

        return $left;
    }

    private function comparison(): Node
    {
        $left = $this->sum();
        while (true) {
            $token = $this->current();
            if ($token->kind === TokenKind::Symbol && in_array($token->text, self::COMPARISONS, true)) {
                $this->take();
                $right = $this->sum();
                $left = new Comparison($token->text, $left, $right, $left->from, $right->to);
            } elseif ($token->is('between')) {
                $this->take();
                $low = $this->sum();
                $this->need('and', 'between the two ends');
                $high = $this->sum();
                $left = new Between($left, $low, $high, $left->from, $high->to);
            } elseif ($token->is('in')) {
                $this->take();
                $left = $this->in($left);
            } elseif ($token->is('instance')) {
                $this->take();
                if ($this->current()->text !== 'of') {
                    throw $this->unexpected('"of" after instance');
                }
                $this->take();
                $type = $this->typeName();
                $left = new InstanceTest($left, $type, $left->from, $this->previousEnd());
            } else {
                return $left;
            }
        }
    }

    private function in(Node $value): Node
    {
        $isTest = $this->current()->is('(') && $this->next()->kind === TokenKind::Symbol && in_array($this->next()->text, self::COMPARISONS, true);
        $range = $isTest ? null : $this->range();
        if ($range !== null) {
            return new In($value, [$range], $value->from, $range->to);
        }
        if ($this->current()->is('(')) {
            $this->take();
            $tests = $this->tests();
            $this->need(')', 'after the tests');

            return new In($value, $tests, $value->from, $this->previousEnd());
        }
        $token = $this->current();
        if ($token->kind === TokenKind::Name && $token->text === 'not' && $this->next()->is('(')) {
            $tests = $this->tests();

            return new In($value, $tests, $value->from, $this->previousEnd());
        }
        if ($token->kind === TokenKind::Symbol && in_array($token->text, self::COMPARISONS, true)) {
            $this->take();
            $right = $this->sum();

            return new In($value, [new UnaryComparison($token->text, $right, $token->from, $right->to)], $value->from, $right->to);
        }
        $test = $this->sum();

        return new In($value, [$test], $value->from, $test->to);
    }

    private function sum(): Node
    {
        $left = $this->product();
        while ($this->current()->is('+') || $this->current()->is('-')) {
            $operator = $this->take()->text;
            $right = $this->product();
            $left = new Arithmetic($operator, $left, $right, $left->from, $right->to);
        }

        return $left;
    }

    private function product(): Node
    {
        $left = $this->power();
        while ($this->current()->is('*') || $this->current()->is('/')) {
            $operator = $this->take()->text;
            $right = $this->power();
            $left = new Arithmetic($operator, $left, $right, $left->from, $right->to);
        }

        return $left;
    }

    private function power(): Node
    {
        $left = $this->negation();
        while ($this->takeIf('**')) {
            $right = $this->negation();
            $left = new Arithmetic('**', $left, $right, $left->from, $right->to);
        }

        return $left;
    }

    private function negation(): Node
    {
        $token = $this->current();
        if (! $token->is('-')) {
            return $this->postfix();
        }
        $this->take();
        $this->deeper();
        $of = $this->negation();
        $this->depth--;

        return new Negation($of, $token->from, $of->to);
    }

    private function postfix(): Node
    {
        $node = $this->primary();
        while (true) {
            $token = $this->current();
            if ($token->is('.')) {
                $this->take();
                $name = $this->current()->kind === TokenKind::Keyword ? $this->take()->text : $this->words('the name of a part');
                $node = new Path($node, $name, $node->from, $this->previousEnd());
            } elseif ($token->is('[') && ! $this->closesRange()) {
                $this->take();
                $by = $this->anExpression();
                $this->need(']', 'after the filter');
                $node = new Filter($node, $by, $node->from, $this->previousEnd());
            } elseif ($token->is('(')) {
                $node = $this->call($node);
            } else {
                return $node;
            }
        }
    }

    /** In `]1..2[` the bracket ends the range: nothing that could be a filter follows it. */
    private function closesRange(): bool
    {
        $next = $this->next();

        return $next->kind === TokenKind::End
            || ($next->kind === TokenKind::Symbol && ! in_array($next->text, ['(', '[', ']', '{', '-', '?', '@'], true))
            || ($next->kind === TokenKind::Keyword && in_array($next->text, ['and', 'or', 'then', 'else', 'in', 'between', 'return', 'satisfies', 'instance'], true));
    }

    private function call(Node $function): Node
    {
        $this->take();
        $arguments = [];
        if (! $this->current()->is(')')) {
            do {
                $name = $this->argumentName();
                if ($name === null) {
                    if ($arguments !== [] && ! array_is_list($arguments)) {
                        throw $this->unexpected('a named argument, as the ones before');
                    }
                    $arguments[] = $this->anExpression();
                } else {
                    $arguments[$name] = $this->anExpression();
                }
            } while ($this->takeIf(','));
        }
        $this->need(')', 'after the arguments');

        return new Call($function, $arguments, $function->from, $this->previousEnd());
    }

    private function argumentName(): ?string
    {
        $words = [];
        $ahead = 0;
        while ($this->next($ahead)->kind === TokenKind::Name) {
            $words[] = $this->next($ahead++)->text;
        }
        if ($words === [] || ! $this->next($ahead)->is(':')) {
            return null;
        }
        $this->at += $ahead + 1;

        return implode(' ', $words);
    }

    private function primary(): Node
    {
        $token = $this->current();
        switch ($token->kind) {
            case TokenKind::Number:
                $this->take();

                return new Literal($this->number($token), $token->from, $token->to);
            case TokenKind::Text:
                $this->take();

                return new Literal($token->text, $token->from, $token->to);
            case TokenKind::Name:
                return $this->name();
            case TokenKind::Keyword:
                if (in_array($token->text, ['true', 'false', 'null'], true)) {
                    $this->take();

                    return new Literal(['true' => true, 'false' => false, 'null' => null][$token->text], $token->from, $token->to);
                }
                if (in_array($token->text, ['if', 'for', 'some', 'every', 'function'], true)) {
                    return $this->anExpression();
                }
                break;
            case TokenKind::Symbol:
                $node = $this->bracketed($token);
                if ($node !== null) {
                    return $node;
                }
                break;
            case TokenKind::End:
        }
        throw $this->unexpected('a value');
    }

    private function bracketed(Token $token): ?Node
    {
        if ($token->text === '?') {
            $this->take();

            return new Name('?', $token->from, $token->to);
        }
        if ($token->text === '@') {
            $this->take();
            $text = $this->current();
            $value = $text->kind === TokenKind::Text ? TemporalText::parse($text->text) : null;
            if ($value === null) {
                throw $text->kind === TokenKind::Text
                    ? new FeelError(sprintf('"%s" is no date, time or duration.', mb_strimwidth($text->text, 0, 40, '…')), $text->from, $text->to, 'such as @"2027-03-04", @"09:00:00", @"P2DT3H"')
                    : $this->unexpected('a text after @');
            }
            $this->take();

            return new Literal($value, $token->from, $text->to);
        }
        if ($token->text === '{') {
            return $this->context();
        }
        if (! in_array($token->text, ['(', '[', ']'], true)) {
            return null;
        }
        $range = $this->range();
        if ($range !== null) {
            return $range;
        }
        if ($token->text === '[') {
            return $this->list();
        }
        if ($token->text === '(') {
            $this->take();
            $node = $this->anExpression();
            $this->need(')', 'to close the bracket');

            return $node;
        }

        return null;
    }

    /** A range if one stands here, else null with nothing taken. */
    private function range(): ?Node
    {
        $open = $this->current();
        if (! ($open->is('(') || $open->is('[') || $open->is(']'))) {
            return null;
        }
        $start = $this->at;
        if ($open->is('(') && in_array($this->next()->text, ['<', '<=', '>', '>=', '='], true) && $this->next()->kind === TokenKind::Symbol) {
            return $this->openRange($open);
        }
        if (! $this->holdsDots()) {
            return null;
        }
        $this->take();
        $low = $this->sum();
        if (! $this->takeIf('..')) {
            $this->at = $start;

            return null;
        }
        $high = $this->sum();
        $close = $this->current();
        if (! ($close->is(')') || $close->is(']') || $close->is('['))) {
            throw $this->unexpected('"]" or ")" to close the range');
        }
        $this->take();

        return new RangeOf($open->is('['), $low, $high, $close->is(']'), $open->from, $close->to);
    }

    private function openRange(Token $open): ?Node
    {
        $start = $this->at;
        $this->take();
        $operator = $this->take()->text;
        $end = $this->sum();
        if (! $this->current()->is(')')) {
            $this->at = $start;

            return null;
        }
        $to = $this->take()->to;

        return match ($operator) {
            '<' => new RangeOf(false, null, $end, false, $open->from, $to),
            '<=' => new RangeOf(false, null, $end, true, $open->from, $to),
            '>' => new RangeOf(false, $end, null, false, $open->from, $to),
            '>=' => new RangeOf(true, $end, null, false, $open->from, $to),
            default => new RangeOf(true, $end, $end, true, $open->from, $to),
        };
    }

    /** Whether ".." stands in the bracket that opens here, on its own level: keeps look-ahead linear. */
    private function holdsDots(): bool
    {
        $level = 0;
        for ($ahead = 1; ; $ahead++) {
            $token = $this->next($ahead);
            if ($token->kind === TokenKind::End) {
                return false;
            }
            if ($level === 0 && $token->is('..')) {
                return true;
            }
            if ($level === 0 && $token->is(',')) {
                return false;
            }
            if ($token->is('(') || $token->is('[') || $token->is('{')) {
                $level++;
            } elseif ($token->is(')') || $token->is(']') || $token->is('}')) {
                if ($level-- === 0) {
                    return false;
                }
            }
        }
    }

    private function list(): Node
    {
        $from = $this->take()->from;
        $items = [];
        if (! $this->current()->is(']')) {
            do {
                $items[] = $this->anExpression();
            } while ($this->takeIf(','));
        }
        $this->need(']', 'to close the list');

        return new ListOf($items, $from, $this->previousEnd());
    }

    private function context(): Node
    {
        $from = $this->take()->from;
        $entries = [];
        $seen = [];
        if (! $this->current()->is('}')) {
            do {
                $token = $this->current();
                $key = $token->kind === TokenKind::Text ? $this->take()->text : $this->entryName();
                if (isset($seen[$key])) {
                    throw new FeelError(sprintf('The entry "%s" stands here twice.', $key), $token->from, $token->to);
                }
                $seen[$key] = true;
                $this->need(':', 'after the name of the entry');
                $entries[] = [$key, $this->anExpression()];
            } while ($this->takeIf(','));
        }
        $this->need('}', 'to close the context');

        return new ContextOf($entries, $from, $this->previousEnd());
    }

    private function entryName(): string
    {
        $words = [$this->aName('the name of an entry')];
        while ($this->current()->kind === TokenKind::Name) {
            $words[] = $this->take()->text;
        }

        return implode(' ', $words);
    }

    /** Names of built-in functions may have spaces: the longest known one wins. */
    private function name(): Node
    {
        $first = $this->take();
        $known = Functions::longestName($first->text, function (int $ahead): ?string {
            $token = $this->next($ahead);

            return $token->kind === TokenKind::Name || $token->kind === TokenKind::Keyword ? $token->text : null;
        });
        if ($known !== null) {
            $this->at += $known[1];

            return new Name($known[0], $first->from, $this->previousEnd());
        }

        $words = [$first->text];
        while ($this->current()->kind === TokenKind::Name) {
            $words[] = $this->take()->text;
        }

        return new Name(implode(' ', $words), $first->from, $this->previousEnd());
    }

    /** A name of one or more words (10.3.1.4): two names side by side can mean nothing else. */
    private function words(string $what): string
    {
        $words = [$this->aName($what)];
        while ($this->current()->kind === TokenKind::Name) {
            $words[] = $this->take()->text;
        }

        return implode(' ', $words);
    }

    private function functionOf(): Node
    {
        $from = $this->take()->from;
        $this->need('(', 'after function');
        $parameters = [];
        if (! $this->current()->is(')')) {
            do {
                $name = $this->words('the name of a parameter');
                $parameters[] = [$name, $this->takeIf(':') ? $this->typeName() : null];
            } while ($this->takeIf(','));
        }
        $this->need(')', 'after the parameters');
        if ($this->current()->is('external')) {
            $token = $this->current();
            throw new FeelError('A formula does not reach functions outside of Sorvel.', $token->from, $token->to, unsupported: true);
        }
        $body = $this->anExpression();

        return new FunctionOf($parameters, $body, $from, $body->to);
    }

    private function typeName(): TypeName
    {
        $this->deeper();
        $token = $this->current();
        $name = $this->plainType();
        $parts = [];
        $returns = null;
        if (in_array($name, ['list', 'range'], true) && $this->takeIf('<')) {
            $parts = [$this->typeName()];
            $this->need('>', 'after the type');
        } elseif ($name === 'context' && $this->takeIf('<')) {
            do {
                $key = $this->words('the name of an entry');
                $this->need(':', 'after the name of the entry');
                $parts[$key] = $this->typeName();
            } while ($this->takeIf(','));
            $this->need('>', 'after the entries');
        } elseif ($name === 'function' && $this->takeIf('<')) {
            while (! $this->current()->is('>')) {
                $parts[] = $this->typeName();
                if (! $this->takeIf(',')) {
                    break;
                }
            }
            $this->need('>', 'after the parameters');
            $this->need('->', 'before what the function gives');
            $returns = $this->typeName();
        } elseif (! in_array($name, [...TypeName::PLAIN, 'list', 'range', 'context', 'function'], true)) {
            throw new FeelError(sprintf('There is no type "%s".', $name), $token->from, $this->previousEnd(), implode(', ', TypeName::PLAIN).', list<…>, range<…>, context<…>, function<…>-><…>');
        }
        $this->depth--;

        return new TypeName($name, $parts, $returns);
    }

    private function plainType(): string
    {
        foreach (TypeName::PLAIN as $name) {
            $words = explode(' ', $name);
            if (count($words) > 1) {
                $fits = true;
                foreach ($words as $i => $word) {
                    $fits = $fits && $this->next($i)->text === $word;
                }
                if ($fits) {
                    $this->at += count($words);

                    return $name;
                }
            }
        }
        if ($this->current()->is('function') || $this->current()->is('null')) {
            return $this->take()->text === 'null' ? 'Null' : 'function';
        }

        return $this->aName('the name of a type');
    }

    private function number(Token $token): int|BigDecimal
    {
        if (ctype_digit($token->text) && strlen($token->text) < 19) {
            return (int) $token->text;
        }
        if (preg_match('~[eE][+-]?(\d+)$~', $token->text, $match) === 1 && (strlen($match[1]) > 4 || (int) $match[1] > 6144)) {
            throw new FeelError('This number has too large an exponent.', $token->from, $token->to);
        }

        try {
            return Number::of($token->text);
        } catch (EvaluationStopped) {
            throw new FeelError('This number is too large.', $token->from, $token->to);
        }
    }
}
