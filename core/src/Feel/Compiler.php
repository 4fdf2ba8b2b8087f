<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel;

use Brick\Math\BigDecimal;
use Sorvel\Core\Feel\BuiltIn\OtherFunctions;
use Sorvel\Core\Feel\BuiltIn\TemporalFunctions;
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
use Sorvel\Core\Feel\Temporal\Date;
use Sorvel\Core\Feel\Temporal\DaysDuration;
use Sorvel\Core\Feel\Temporal\Temporal;

/**
 * A tree to PHP: an expression over `$s` (the Scope), `$w` (the Warnings) and `$q` (the value under a unary test). Only
 * the tree's own literals get into the text, and those through var_export; names of formulas become PHP texts, never
 * PHP names.
 */
final class Compiler
{
    /** Built-in functions that an event has its own answer to. */
    private const OF_THE_EVENT = ['now', 'today'];

    /** @var list<array{string, string}> what an inner name stands for, innermost last: a name and its PHP variable, or '' and the variable of an item whose entries are names */
    private array $inner = [];

    private int $variables = 0;

    /**
     * @param  array<string, string>  $known  names that are read by a PHP expression of their own, not from the scope
     * @param  KnownPaths|null  $paths  names and paths that are read where they are stored
     * @param  string  $prefix  of its variables; what stands within another expression has its own
     */
    public function __construct(private readonly array $known = [], private readonly ?KnownPaths $paths = null, private readonly string $prefix = '$v')
    {
    }

    /** Whether it is a text or null, whatever the record holds. */
    public function isTextOrNull(Node $node): bool
    {
        return ($node instanceof Name || $node instanceof Path) && $this->paths?->value($node) !== null && $this->word($node) === $this->paths->value($node);
    }

    /** Whether it is true or false, whatever the record holds. */
    public function isSure(Node $node): bool
    {
        return self::isNullTest($node) || ($node instanceof Comparison && in_array($node->operator, ['=', '!='], true) && $this->word($node->left) !== null && $this->word($node->right) !== null)
            || ($node instanceof Logic && $this->isSure($node->left) && $this->isSure($node->right));
    }

    /** Whether something is compared with null: it is null, or it is not (table 42). */
    private static function isNullTest(Node $node): bool
    {
        return $node instanceof Comparison && in_array($node->operator, ['=', '!='], true) && $node->right instanceof Literal && $node->right->value === null;
    }

    /** An expression that is a text or null and equals what the node equals; null when there is none. */
    private function word(Node $node): ?string
    {
        if ($node instanceof Literal) {
            return is_string($node->value) || $node->value === null ? self::literal($node->value) : null;
        }

        return $this->isFree($node) ? $this->paths?->word($node) : null;
    }

    /** Whether the formula itself gives the name that a path begins with no other meaning. */
    private function isFree(Node $node): bool
    {
        while ($node instanceof Path) {
            $node = $node->of;
        }

        return $node instanceof Name && ! $this->isBound($node->name);
    }

    private function path(Path $node): string
    {
        return ($this->isFree($node) ? $this->paths?->value($node) : null) ?? $this->run('part', $node, $this->value($node->of), self::text($node->name));
    }

    /** @return string the source of a condition over $s and $w: whether an expression is true */
    public function condition(Node $tree): string
    {
        return $this->value($tree).($this->isSure($tree) ? '' : '===true');
    }

    /** @return string the source of an expression over $s and $w */
    public function expression(Node $tree): string
    {
        return $this->value($tree);
    }

    /**
     * @param  list<Node>  $tests
     * @param  string  $value  a PHP variable that holds the value under them
     * @param  bool  $isText  whether that is a text or null
     * @return string the source of a condition over $s and $w: whether they hold
     */
    public function test(array $tests, string $value, bool $isText = false): string
    {
        $texts = array_map(fn (Node $test): ?string => $test instanceof Literal && is_string($test->value) ? self::text($test->value) : null, $tests);
        if ($isText && ! in_array(null, $texts, true)) {
            return count($texts) === 1 ? $value.'==='.implode('', $texts) : sprintf('in_array(%s,[%s],true)', $value, implode(',', $texts));
        }
        $this->inner[] = ['?', $value];
        $source = $this->anyTest($tests, $value);
        array_pop($this->inner);
        $only = count($tests) === 1 ? $tests[0] : null;
        $of = $only instanceof UnaryComparison ? $only->right : $only;

        return $of instanceof Literal && $of->value === null ? $source : $source.'===true';
    }

    /** @return string the source of a closure (Scope $s, Warnings $w): mixed */
    public static function formula(Node $tree): string
    {
        return 'static fn($s,$w)=>'.(new self)->value($tree);
    }

    /**
     * @param  list<Node>  $tests
     * @return string the source of a closure (Scope $s, Warnings $w, mixed $q): ?bool
     */
    public static function tests(array $tests): string
    {
        $compiler = new self;
        $compiler->inner[] = ['?', '$q'];

        return 'static fn($s,$w,$q)=>'.$compiler->anyTest($tests, '$q');
    }

    private function value(Node $node): string
    {
        return match ($node::class) {
            Literal::class => self::literal($node->value),
            Name::class => $this->name($node),
            Path::class => $this->path($node),
            Comparison::class => $this->comparison($node),
            Logic::class => $this->logic($node),
            Arithmetic::class => $this->arithmetic($node),
            Negation::class => $this->run('negate', $node, $this->value($node->of)),
            IfThenElse::class => sprintf('(%s===true?%s:%s)', $this->value($node->condition), $this->value($node->then), $this->value($node->else)),
            ListOf::class => '['.implode(',', array_map($this->value(...), $node->items)).']',
            Between::class => sprintf('\%s::between(%s,%s,%s)', Runtime::class, $this->value($node->value), $this->value($node->low), $this->value($node->high)),
            In::class => $this->in($node),
            RangeOf::class => $this->run('range', $node, self::literal($node->startIncluded), $node->start === null ? 'null' : $this->value($node->start), $node->end === null ? 'null' : $this->value($node->end), self::literal($node->endIncluded), self::literal($node->start === null || $node->end === null)),
            InstanceTest::class => sprintf('%s->holds(%s)', self::constant($node->type), $this->value($node->value)),
            Call::class => $this->call($node),
            ContextOf::class => $this->context($node),
            Filter::class => $this->filter($node),
            Quantified::class => $this->quantified($node),
            ForReturn::class => $this->forReturn($node),
            FunctionOf::class => $this->functionOf($node),
            default => throw new \LogicException('No compiling for '.$node::class),
        };
    }

    private function run(string $method, Node $node, string ...$arguments): string
    {
        return sprintf('\%s::%s(%s,$w,%d,%d)', Runtime::class, $method, implode(',', $arguments), $node->from, $node->to);
    }

    private static function literal(mixed $value): string
    {
        return match (true) {
            is_string($value) => self::text($value),
            $value === null => 'null',
            is_bool($value) => $value ? 'true' : 'false',
            is_int($value) => '('.$value.')',
            default => self::constant($value),
        };
    }

    private static function text(string $text): string
    {
        return var_export($text, true);
    }

    /** A value that PHP has no literal for is made once and kept. */
    private static function constant(mixed $value): string
    {
        return match (true) {
            $value instanceof BigDecimal => sprintf('\%s::decimal(%s)', Constants::class, self::text((string) $value)),
            $value instanceof Temporal => sprintf('\%s::temporal(%s)', Constants::class, self::text((string) $value)),
            $value instanceof TypeName => sprintf('\%s::type(%s)', Constants::class, self::text((string) $value)),
            default => throw new \LogicException('No constant for this.'),
        };
    }

    private function variable(): string
    {
        return $this->prefix.(++$this->variables);
    }

    /** @param  bool  $raw  nothing in scope is no reason for a warning */
    private function name(Name $node, bool $raw = false): string
    {
        $closed = '';
        $open = '';
        foreach (array_reverse($this->inner) as [$name, $variable]) {
            if ($name === $node->name) {
                return $open.$variable.$closed;
            }
            if ($name === '') {
                $key = self::text($node->name);
                $entry = $this->variable();
                $open .= sprintf('(%1$s instanceof \%2$s&&((%4$s=%1$s->get(%3$s))!==null||%1$s->has(%3$s))?%4$s:', $variable, Context::class, $key, $entry);
                $closed .= ')';
            }
        }

        if (isset($this->known[$node->name])) {
            return $open.$this->known[$node->name].$closed;
        }
        $stored = $this->paths?->value($node);
        if ($stored !== null) {
            return $open.$stored.$closed;
        }
        $get = sprintf('$s->get(%s)', self::text($node->name));
        $otherwise = sprintf('\%s::name($s,%s,$w,%d,%d)', Runtime::class, self::text($node->name), $node->from, $node->to);

        return $open.($raw ? $get : (str_contains($node->name, ' ') ? $otherwise : '('.$get.'??'.$otherwise.')')).$closed;
    }

    /** What is common is written out in PHP; everything else goes to the runtime. */
    private function comparison(Comparison $node): string
    {
        if ($this->isSure($node)) {
            return sprintf('(%s%s%s)', $this->word($node->left) ?? $this->value($node->left), $node->operator === '=' ? '===' : '!==', $this->word($node->right) ?? 'null');
        }
        $left = $this->variable();
        $right = $this->variable();
        $sides = [$left.'='.$this->value($node->left), $right.'='.$this->value($node->right)];
        [$method, $sign, $operator] = match ($node->operator) {
            '=' => ['equal', '===', []],
            '!=' => ['unequal', '!==', []],
            default => ['order', $node->operator, [self::text($node->operator)]],
        };
        $slow = $this->run($method, $node, ...[...$operator, $left, $right]);
        $quick = $node->right instanceof Literal && is_string($node->right->value) && $operator === [] ? 'is_string' : 'is_int';
        if ($quick === 'is_string' || ($node->right instanceof Literal && is_int($node->right->value))) {
            return sprintf('(%s(%s)?%s%s%s:%s)', $quick, $sides[0], $left, $sign, $this->value($node->right), $this->run($method, $node, ...[...$operator, $left, $this->value($node->right)]));
        }

        // & and not &&: both sides are always computed
        return sprintf('((is_int(%s)&is_int(%s))?%s%s%s:%s)', $sides[0], $sides[1], $left, $sign, $right, $slow);
    }

    private function arithmetic(Arithmetic $node): string
    {
        if ($node->operator === '/') {
            [$left, $right] = [$this->variable(), $this->variable()];
            if ($node->right instanceof Literal && is_int($node->right->value) && $node->right->value > 0) {
                $constant = self::literal($node->right->value);

                return sprintf('(is_int(%1$s=%2$s)&&%1$s%%%3$s===0?intdiv(%1$s,%3$s):%4$s)', $left, $this->value($node->left), $constant, $this->run('arithmetic', $node, '\'/\'', $left, $constant));
            }

            // what goes without a rest stays a whole number
            return sprintf('((is_int(%1$s=%2$s)&is_int(%3$s=%4$s))&&%3$s>0&&%1$s%%%3$s===0?intdiv(%1$s,%3$s):%5$s)', $left, $this->value($node->left), $right, $this->value($node->right), $this->run('arithmetic', $node, '\'/\'', $left, $right));
        }
        if (! in_array($node->operator, ['+', '-', '*'], true)) {
            return $this->run('arithmetic', $node, self::text($node->operator), $this->value($node->left), $this->value($node->right));
        }
        [$left, $right, $result] = [$this->variable(), $this->variable(), $this->variable()];
        if ($node->operator !== '*' && $node->right instanceof Literal && $node->right->value instanceof DaysDuration && $node->right->value->nanos === 0 && $node->right->value->seconds % 86_400 === 0) {
            $days = intdiv($node->right->value->seconds, 86_400);

            return sprintf('((%1$s=%2$s) instanceof \\%3$s?%1$s->plusDays(%4$d)??%5$s:%5$s)', $left, $this->value($node->left), Date::class, $node->operator === '+' ? $days : -$days, $this->run('arithmetic', $node, self::text($node->operator), $left, $this->value($node->right)));
        }
        if ($node->operator === '+' && ($this->isText($node->left) || $this->isText($node->right))) {
            // short texts are joined at once; long ones count towards the bounds
            return sprintf('((is_string(%1$s=%2$s)&is_string(%3$s=%4$s))&&!isset((%5$s=%1$s.%3$s)[127])?%5$s:%6$s)', $left, $this->value($node->left), $right, $this->value($node->right), $result, $this->run('add', $node, $left, $right));
        }
        $slow = $node->operator === '+' ? $this->run('add', $node, $left, $right) : $this->run('arithmetic', $node, self::text($node->operator), $left, $right);

        if ($node->right instanceof Literal && is_int($node->right->value)) {
            $constant = self::literal($node->right->value);

            return sprintf('(is_int(%1$s=%2$s)&&is_int(%4$s=%1$s%5$s%3$s)?%4$s:%6$s)', $left, $this->value($node->left), $constant, $result, $node->operator, str_replace($right.',', $constant.',', $slow));
        }

        // a whole result that does not fit becomes a float in PHP, and then the exact way is taken
        return sprintf('((is_int(%1$s=%2$s)&is_int(%3$s=%4$s))&&is_int(%5$s=%1$s%6$s%3$s)?%5$s:%7$s)', $left, $this->value($node->left), $right, $this->value($node->right), $result, $node->operator, $slow);
    }

    /** Whether it is a text for sure, or nothing. */
    private function isText(Node $node): bool
    {
        return match (true) {
            $node instanceof Literal => is_string($node->value),
            $node instanceof Arithmetic => $node->operator === '+' && ($this->isText($node->left) || $this->isText($node->right)),
            $node instanceof Call => $node->function instanceof Name && $node->function->name === 'string',
            default => false,
        };
    }

    private function logic(Logic $node): string
    {
        if ($this->isSure($node)) {
            return sprintf('(%s%s%s)', $this->value($node->left), $node->operator === 'or' ? '||' : '&&', $this->value($node->right));
        }
        [$decides, $other] = $node->operator === 'or' ? ['true', 'false'] : ['false', 'true'];
        [$left, $right] = [$this->variable(), $this->variable()];

        // neither half decides: both must be known (10.3.2.10, table 50)
        return sprintf('((%1$s=%2$s)===%5$s||(%3$s=%4$s)===%5$s?%5$s:(%1$s===%6$s&&%3$s===%6$s?%6$s:null))', $left, $this->value($node->left), $right, $this->value($node->right), $decides, $other);
    }

    private function in(In $node): string
    {
        $variable = $this->variable();
        $value = $this->value($node->value);
        $this->inner[] = ['?', $variable];
        $tests = $this->anyTest($node->tests, $variable);
        array_pop($this->inner);

        // the value first, then the tests on it
        return sprintf('((%s=%s)===null&&false?null:%s)', $variable, $value, $tests);
    }

    /** @param  list<Node>  $tests */
    private function anyTest(array $tests, string $value): string
    {
        $texts = [];
        foreach ($tests as $test) {
            if (! $test instanceof Literal || ! is_string($test->value)) {
                $texts = null;
                break;
            }
            $texts[] = self::text($test->value);
        }
        $compiled = array_map(fn (Node $test): string => $this->oneTest($test, $value), $tests);
        if (count($compiled) === 1) {
            return $compiled[0];
        }
        $chain = array_pop($compiled) ?? 'false';
        foreach (array_reverse($compiled) as $test) {
            [$left, $right] = [$this->variable(), $this->variable()];
            $chain = sprintf('((%1$s=%2$s)===true||(%3$s=%4$s)===true?true:(%1$s===false&&%3$s===false?false:null))', $left, $test, $right, $chain);
        }

        // a set of texts beside a text needs no more than a look
        return $texts === null ? $chain : sprintf('(is_string(%s)?in_array(%s,[%s],true):%s)', $value, $value, implode(',', $texts), $chain);
    }

    private function oneTest(Node $test, string $value): string
    {
        if ($test instanceof AnyValue) {
            return 'true';
        }
        if ($test instanceof UnaryComparison && $test->right instanceof Literal && is_int($test->right->value)) {
            $sign = ['=' => '===', '!=' => '!=='][$test->operator] ?? $test->operator;

            return sprintf('(is_int(%1$s)?%1$s%2$s%3$s:%4$s)', $value, $sign, self::literal($test->right->value), $this->run('test', $test, self::text($test->operator), $value, self::literal($test->right->value)));
        }
        if ($test instanceof Literal && $test->value === null) {
            return sprintf('(%s===null)', $value);
        }
        if ($test instanceof Literal && is_bool($test->value)) {
            return sprintf('(is_bool(%1$s)?%1$s===%2$s:\\%3$s::fits(%1$s,%2$s))', $value, self::literal($test->value), Runtime::class);
        }
        if ($test instanceof UnaryComparison && in_array($test->operator, ['=', '!='], true) && $test->right instanceof Literal && $test->right->value === null) {
            return sprintf('(%s%snull)', $value, $test->operator === '=' ? '===' : '!==');
        }
        if ($test instanceof Literal && is_string($test->value)) {
            return sprintf('(is_string(%1$s)?%1$s===%2$s:\\%3$s::fits(%1$s,%2$s))', $value, self::text($test->value), Runtime::class);
        }
        if ($test instanceof UnaryComparison) {
            return $this->run('test', $test, self::text($test->operator), $value, $this->value($test->right));
        }
        if ($test instanceof UnaryNot) {
            $variable = $this->variable();

            return sprintf('((%s=%s)===null?null:!%s)', $variable, $this->anyTest($test->tests, $value), $variable);
        }
        $result = $this->value($test);
        if (Walk::readsName($test, '?')) {
            $variable = $this->variable();

            return sprintf('(is_bool(%s=%s)?%s:null)', $variable, $result, $variable);
        }

        return sprintf('\%s::fits(%s,%s)', Runtime::class, $value, $result);
    }

    private function call(Call $node): string
    {
        $name = $node->function instanceof Name ? $node->function->name : '';
        if ($this->paths !== null && in_array($name, [...self::OF_THE_EVENT, 'open'], true) && array_is_list($node->arguments) && ! $this->isBound($name)) {
            $source = $this->paths->ofTheEvent($name, array_map($this->value(...), $node->arguments));
            if ($source !== null) {
                return $source;
            }
        }
        $builtIn = in_array($name, self::OF_THE_EVENT, true) || $this->isBound($name) ? null : Functions::find($name);
        $count = count($node->arguments);
        if ($builtIn !== null && array_is_list($node->arguments) && $count >= $builtIn->required && ($builtIn->most === null || $count <= $builtIn->most)) {
            return $this->builtIn($name, $node);
        }
        $arguments = [];
        foreach ($node->arguments as $parameter => $argument) {
            $arguments[] = (is_string($parameter) ? self::text($parameter).'=>' : '').$this->value($argument);
        }

        if ($name !== '' && Functions::find($name) === null && array_is_list($node->arguments)) {
            return $this->run('callTable', $node, $this->value($node->function), '['.implode(',', $arguments).']');
        }
        $function = $node->function instanceof Name && Functions::find($node->function->name) !== null
            ? sprintf('\%s::callee(%s,%s)', Runtime::class, $this->name($node->function, true), self::text($node->function->name))
            : $this->value($node->function);

        return $this->run('call', $node, $function, '['.implode(',', $arguments).']');
    }

    /** Whether the formula itself may give the name another meaning. */
    private function isBound(string $name): bool
    {
        foreach ($this->inner as [$bound]) {
            if ($bound === $name || $bound === '') {
                return true;
            }
        }

        return false;
    }

    /** A built-in function with as many arguments as it takes; the commonest are written out for their commonest values. */
    private function builtIn(string $name, Call $node): string
    {
        $variables = array_map(fn (): string => $this->variable(), $node->arguments);
        $given = array_map(fn (string $variable, Node $argument): string => $variable.'='.$this->value($argument), $variables, $node->arguments);
        $slow = fn (string ...$arguments): string => sprintf('\%s::builtIn(%s,[%s],$w,%d,%d)', Runtime::class, self::text($name), implode(',', $arguments), $node->from, $node->to);
        [$a, $b] = [$variables[0] ?? '', $variables[1] ?? ''];
        $rest = $slow(...$variables);
        $quick = match ($name.' '.count($variables)) {
            'string 1' => sprintf('(is_string(%1$s)?%2$s:(is_int(%2$s)?(string)%2$s:%3$s))', $given[0], $a, $rest),
            'tag 1' => sprintf('(is_string(%s)?\\%s::tag(%s)??%s:%s)', $given[0], OtherFunctions::class, $a, $rest, $rest),
            'date 1' => sprintf('((%s)===null?null:%s)', $given[0], $rest),
            'day of week 1' => sprintf('((%1$s) instanceof \\%2$s?\\%3$s::DAYS[%4$s->weekday()-1]:%5$s)', $given[0], Date::class, TemporalFunctions::class, $a, $rest),
            'count 1' => sprintf('(is_array(%s)?count(%s):%s)', $given[0], $a, $rest),
            'not 1' => sprintf('(is_bool(%s)?!%s:%s)', $given[0], $a, $rest),
            'string length 1' => sprintf('(is_string(%s)?mb_strlen(%s):%s)', $given[0], $a, $rest),
            'contains 2' => sprintf('((is_string(%s)&is_string(%s))?str_contains(%s,%s):%s)', $given[0], $given[1], $a, $b, $rest),
            'starts with 2' => sprintf('((is_string(%s)&is_string(%s))?str_starts_with(%s,%s):%s)', $given[0], $given[1], $a, $b, $rest),
            'ends with 2' => sprintf('((is_string(%s)&is_string(%s))?str_ends_with(%s,%s):%s)', $given[0], $given[1], $a, $b, $rest),
            // what is in the list under the same type is in it; what is not may still equal a person or a number
            'list contains 2' => sprintf('((is_array(%s)&is_string(%s))&&in_array(%s,%s,true)?true:%s)', $given[0], $given[1], $b, $a, $rest),
            default => null,
        };

        return $quick ?? $slow(...array_map($this->value(...), $node->arguments));
    }

    /** Entries in order, each seeing those before it. */
    private function context(ContextOf $node): string
    {
        $depth = count($this->inner);
        $steps = [];
        $entries = [];
        foreach ($node->entries as [$key, $value]) {
            $variable = $this->variable();
            $steps[] = $variable.'='.$this->value($value);
            $entries[] = self::text($key).'=>'.$variable;
            $this->inner[] = [$key, $variable];
        }
        array_splice($this->inner, $depth);

        return sprintf('[%snew \%s([%s])][%d]', $steps === [] ? '' : implode(',', $steps).',', PlainContext::class, implode(',', $entries), count($steps));
    }

    private function filter(Filter $node): string
    {
        $list = $this->value($node->of);
        if (! Walk::readsAnyName($node->by)) {
            $index = $this->variable();

            return sprintf('[%1$s=%2$s,\%3$s::filter(%1$s,%1$s!==null&&is_int(%4$s=%5$s)?%4$s:null,fn()=>%5$s,$w,%6$d,%7$d)][1]', $this->variable(), $list, Runtime::class, $index, $this->value($node->by), $node->from, $node->to);
        }
        $item = $this->variable();
        array_push($this->inner, ['', $item], ['item', $item]);
        $by = $this->value($node->by);
        array_splice($this->inner, -2);

        return $this->run('filter', $node, $list, 'null', sprintf('fn(%s)=>%s', $item, $by));
    }

    private function quantified(Quantified $node): string
    {
        $depth = count($this->inner);
        $decides = $node->kind === 'some' ? 'true' : 'false';
        $lists = $this->iterators($node->iterators, $node);
        $body = $this->value($node->satisfies);
        array_splice($this->inner, $depth);
        foreach (array_reverse($lists) as $i => [$variable, $list]) {
            $body = sprintf('\%s::quantified(%s,fn(%s)=>%s,%s,%s,$w)', Loops::class, $list, $variable, $body, $decides, $i === 0 ? 'true' : 'false');
        }

        return sprintf('\%s::answer(%s)', Loops::class, $body);
    }

    private function forReturn(ForReturn $node): string
    {
        $depth = count($this->inner);
        $lists = $this->iterators($node->iterators, $node);
        $partial = Walk::readsName($node->return, 'partial');
        $results = $this->variable();
        if ($partial) {
            $this->inner[] = ['partial', $results.'->list'];
        }
        $body = $this->value($node->return);
        array_splice($this->inner, $depth);
        $body = sprintf('%s->add(%s)', $results, $body);
        foreach (array_reverse($lists) as [$variable, $list]) {
            $body = sprintf('\%s::each(%s,fn(%s)=>%s,$w)', Loops::class, $list, $variable, $body);
        }

        return sprintf('(fn(%1$s)=>[%2$s,%1$s->list][1])(new \%3$s)', $results, $body, Results::class);
    }

    /**
     * Makes the names known for what follows.
     *
     * @param  list<array{string, Node}>  $iterators
     * @return list<array{string, string}> variable and what it goes over
     */
    private function iterators(array $iterators, Node $node): array
    {
        $lists = [];
        foreach ($iterators as [$name, $of]) {
            $list = sprintf('\%s::items(%s,$w,%d,%d)', Runtime::class, $this->value($of), $node->from, $node->to);
            $variable = $this->variable();
            $lists[] = [$variable, $list];
            $this->inner[] = [$name, $variable];
        }

        return $lists;
    }

    private function functionOf(FunctionOf $node): string
    {
        $depth = count($this->inner);
        $arguments = $this->variable();
        $names = [];
        $types = [];
        foreach ($node->parameters as $i => [$name, $type]) {
            $names[] = self::text($name);
            $types[] = $type === null ? 'null' : self::constant($type);
            $this->inner[] = [$name, $arguments.'['.$i.']'];
        }
        $body = $this->value($node->body);
        array_splice($this->inner, $depth);

        return sprintf('\%s::functionOf([%s],[%s],fn(%s,$w)=>%s,%d,%d)', Runtime::class, implode(',', $names), implode(',', $types), $arguments, $body, $node->from, $node->to);
    }
}
