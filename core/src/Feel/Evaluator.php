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
use Sorvel\Core\Feel\Temporal\Date;
use Sorvel\Core\Feel\Temporal\Temporal;
use Sorvel\Core\Feel\Temporal\TemporalArithmetic;

/**
 * A tree and a scope to a value (DMN 1.5, 10.3.2). Whatever fails is null with a warning.
 */
final class Evaluator
{
    private const MAX_TEXT = 1_000_000;

    public function __construct(private readonly Warnings $warnings)
    {
    }

    public function value(Node $node, Scope $scope): mixed
    {
        $this->warnings->step();

        return match ($node::class) {
            Literal::class => $node->value,
            Name::class => $this->name($node, $scope),
            Path::class => $this->path($node, $scope),
            Comparison::class => $this->comparison($node, $scope),
            Logic::class => $this->logic($node, $scope),
            Arithmetic::class => $this->arithmetic($node, $scope),
            Call::class => $this->call($node, $scope),
            IfThenElse::class => $this->value($this->value($node->condition, $scope) === true ? $node->then : $node->else, $scope),
            ListOf::class => array_map(fn (Node $item): mixed => $this->value($item, $scope), $node->items),
            In::class => $this->anyTest($node->tests, $this->value($node->value, $scope), $scope),
            Between::class => $this->between($node, $scope),
            Negation::class => $this->negation($node, $scope),
            ContextOf::class => $this->context($node, $scope),
            RangeOf::class => $this->range($node, $scope),
            Filter::class => $this->filter($node, $scope),
            Quantified::class => $this->quantified($node, $scope),
            ForReturn::class => $this->forReturn($node, $scope),
            FunctionOf::class => $this->functionOf($node, $scope),
            InstanceTest::class => $node->type->holds($this->value($node->value, $scope)),
            AnyValue::class, UnaryComparison::class, UnaryNot::class => $this->test($node, $scope->get('?'), $scope),
            default => throw new \LogicException('No evaluation for '.$node::class),
        };
    }

    /**
     * Whether one of the unary tests holds; null when that cannot be known.
     *
     * @param  list<Node>  $tests
     */
    public function anyTest(array $tests, mixed $value, Scope $scope): ?bool
    {
        $answer = false;
        foreach ($tests as $test) {
            $holds = $this->test($test, $value, $scope);
            if ($holds === true) {
                return true;
            }
            $answer = $holds === null ? null : $answer;
        }

        return $answer;
    }

    /** 10.3.2.7 and grammar rule 7: what a single unary test says of a value. */
    private function test(Node $test, mixed $value, Scope $scope): ?bool
    {
        if ($test instanceof AnyValue) {
            return true;
        }
        $inner = new MapScope(['?' => $value], $scope);
        if ($test instanceof UnaryComparison) {
            return $this->compare($test->operator, $value, $this->value($test->right, $inner), $test, quiet: true);
        }
        if ($test instanceof UnaryNot) {
            $any = $this->anyTest($test->tests, $value, $scope);

            return $any === null ? null : ! $any;
        }
        $result = $this->value($test, $inner);
        if (Walk::readsName($test, '?')) {
            return is_bool($result) ? $result : null;
        }
        if (is_array($result) && ! is_array($value)) {
            foreach ($result as $item) {
                if (($item instanceof Range ? $item->holds($value) : Values::equal($value, $item)) === true) {
                    return true;
                }
            }

            return false;
        }
        if ($result instanceof Range) {
            return $result->holds($value);
        }

        return Values::equal($value, $result);
    }

    private function name(Name $node, Scope $scope): mixed
    {
        if ($scope->has($node->name)) {
            return $scope->get($node->name);
        }
        $function = Functions::find($node->name);

        return $function ?? $this->warn($node, sprintf('"%s" is not known here.', $node->name));
    }

    private function path(Path $node, Scope $scope): mixed
    {
        return $this->part($this->value($node->of, $scope), $node);
    }

    private function part(mixed $of, Path $node): mixed
    {
        if ($of === null) {
            return null;
        }
        if (is_array($of)) {
            $this->warnings->step(count($of));

            return array_map(fn (mixed $item): mixed => $this->part($item, $node), $of);
        }
        if ($of instanceof Context) {
            return $of->has($node->name) ? $of->get($node->name) : $this->warn($node, sprintf('There is no "%s" in it.', $node->name));
        }
        if ($of instanceof Temporal) {
            return in_array($node->name, $of->properties(), true) ? $of->property($node->name) : $this->warn($node, sprintf('%s has no "%s".', ucfirst(Values::kind($of)), $node->name));
        }
        if ($of instanceof Range) {
            return match ($node->name) {
                'start' => $of->start,
                'end' => $of->end,
                'start included' => $of->startIncluded,
                'end included' => $of->endIncluded,
                default => $this->warn($node, sprintf('A range has no "%s".', $node->name)),
            };
        }

        return $this->warn($node, sprintf('%s has no "%s".', ucfirst(Values::kind($of)), $node->name));
    }

    private function comparison(Comparison $node, Scope $scope): ?bool
    {
        return $this->compare($node->operator, $this->value($node->left, $scope), $this->value($node->right, $scope), $node);
    }

    private function compare(string $operator, mixed $left, mixed $right, Node $node, bool $quiet = false): ?bool
    {
        $result = match ($operator) {
            '=' => Values::equal($left, $right),
            '!=' => ($equal = Values::equal($left, $right)) === null ? null : ! $equal,
            default => Values::ordered($operator, $left, $right),
        };
        if ($result === null && ! ($quiet && ($left === null || $right === null))) {
            $this->warn($node, sprintf('%s cannot be compared with %s.', ucfirst(Values::kind($left)), Values::kind($right)));
        }

        return $result;
    }

    /** Three-valued, and stops as soon as the answer is known (10.3.2.10). */
    private function logic(Logic $node, Scope $scope): ?bool
    {
        $decides = $node->operator === 'or';
        $left = $this->value($node->left, $scope);
        if ($left === $decides) {
            return $decides;
        }
        $right = $this->value($node->right, $scope);
        if ($right === $decides) {
            return $decides;
        }

        return is_bool($left) && is_bool($right) ? ! $decides : null;
    }

    private function arithmetic(Arithmetic $node, Scope $scope): mixed
    {
        $left = $this->value($node->left, $scope);
        $right = $this->value($node->right, $scope);
        if ($node->operator === '+' && is_string($left) && is_string($right)) {
            if (strlen($left) + strlen($right) > self::MAX_TEXT) {
                throw new EvaluationStopped('The text grew past a million characters.');
            }

            $this->warnings->stepFor($left);
            $this->warnings->stepFor($right);

            return $left.$right;
        }
        if ($left instanceof Temporal || $right instanceof Temporal) {
            return TemporalArithmetic::of($node->operator, $left, $right) ?? $this->warn($node, sprintf('"%s" gives nothing for %s and %s.', $node->operator, Values::kind($left), Values::kind($right)));
        }
        if ((! is_int($left) && ! $left instanceof \Brick\Math\BigDecimal) || (! is_int($right) && ! $right instanceof \Brick\Math\BigDecimal)) {
            return $this->warn($node, sprintf('"%s" needs two numbers%s, not %s and %s.', $node->operator, $node->operator === '+' ? ' or two texts' : '', Values::kind($left), Values::kind($right)));
        }

        if ($node->operator === '**' && is_int($right)) {
            $this->warnings->step(min(1000, abs($right)));
        }
        $result = match ($node->operator) {
            '+' => Number::add($left, $right),
            '-' => Number::subtract($left, $right),
            '*' => Number::multiply($left, $right),
            '/' => Number::divide($left, $right) ?? $this->warn($node, 'A number cannot be divided by zero.'),
            default => Number::power($left, $right) ?? $this->warn($node, 'This power cannot be computed.'),
        };
        if ($result instanceof \Brick\Math\BigDecimal) {
            $this->warnings->stepFor($result);
        }

        return $result;
    }

    private function negation(Negation $node, Scope $scope): mixed
    {
        $value = $this->value($node->of, $scope);
        if ($value instanceof Temporal) {
            return TemporalArithmetic::negate($value) ?? $this->warn($node, sprintf('Minus needs a number or a duration, not %s.', Values::kind($value)));
        }

        return is_int($value) || $value instanceof \Brick\Math\BigDecimal ? Number::negate($value) : $this->warn($node, sprintf('Minus needs a number, not %s.', Values::kind($value)));
    }

    private function between(Between $node, Scope $scope): ?bool
    {
        $value = $this->value($node->value, $scope);
        $result = (new Range(true, $this->value($node->low, $scope), $this->value($node->high, $scope), true))->holds($value);

        return $value === null ? null : $result;
    }

    private function context(ContextOf $node, Scope $scope): Context
    {
        $entries = [];
        $inner = new MapScope([], $scope);
        foreach ($node->entries as [$key, $value]) {
            $entries[$key] = $this->value($value, $inner);
            $inner->set($key, $entries[$key]);
        }

        return new PlainContext($entries);
    }

    private function range(RangeOf $node, Scope $scope): ?Range
    {
        $start = $node->start === null ? null : $this->value($node->start, $scope);
        $end = $node->end === null ? null : $this->value($node->end, $scope);
        if (($node->start !== null && $start === null) || ($node->end !== null && $end === null)) {
            return $this->warn($node, 'An end of this range is empty.');
        }

        return new Range($node->startIncluded, $start, $end, $node->endIncluded);
    }

    private function filter(Filter $node, Scope $scope): mixed
    {
        $list = $this->value($node->of, $scope);
        if ($list === null) {
            return null;
        }
        $list = is_array($list) ? $list : [$list];
        if (! Walk::readsAnyName($node->by)) {
            $index = $this->value($node->by, $scope);
            if (is_int($index)) {
                return $list[$index > 0 ? $index - 1 : count($list) + $index] ?? $this->warn($node, 'The list has no item there.');
            }
        }
        $found = [];
        foreach ($list as $position => $item) {
            $inner = new MapScope(['item' => $item], $item instanceof Context ? new ContextScope($item, $scope) : $scope);
            $holds = $this->value($node->by, $inner);
            if (is_int($holds)) {
                return $list[$holds > 0 ? $holds - 1 : count($list) + $holds] ?? $this->warn($node, 'The list has no item there.');
            }
            if ($holds === true) {
                $found[] = $list[$position];
            }
        }

        return $found;
    }

    private function quantified(Quantified $node, Scope $scope): ?bool
    {
        $decides = $node->kind === 'some';
        $answer = ! $decides;
        foreach ($this->combinations($node->iterators, $scope, $node) as $inner) {
            $value = $this->value($node->satisfies, $inner);
            if ($value === $decides) {
                return $decides;
            }
            $answer = is_bool($value) ? $answer : null;
        }

        return $answer;
    }

    /** @return list<mixed> */
    private function forReturn(ForReturn $node, Scope $scope): array
    {
        $list = [];
        $partial = Walk::readsName($node->return, 'partial');
        foreach ($this->combinations($node->iterators, $scope, $node) as $inner) {
            $list[] = $this->value($node->return, $partial ? new MapScope(['partial' => $list], $inner) : $inner);
        }

        return $list;
    }

    /**
     * @param  list<array{string, Node}>  $iterators
     * @return iterable<Scope>
     */
    private function combinations(array $iterators, Scope $scope, Node $node): iterable
    {
        if ($iterators === []) {
            yield $scope;

            return;
        }
        [$name, $of] = array_shift($iterators);
        $list = $this->value($of, $scope);
        foreach ($this->items($list, $node) as $item) {
            $this->warnings->step();
            yield from $this->combinations($iterators, new MapScope([$name => $item], $scope), $node);
        }
    }

    /** @return iterable<mixed> */
    private function items(mixed $list, Node $node): iterable
    {
        if ($list instanceof Range) {
            yield from $this->goOver($list, $node);

            return;
        }
        if ($list === null) {
            return;
        }
        yield from is_array($list) ? $list : [$list];
    }

    /** @return iterable<mixed> whole numbers or days from one end to the other, downwards too */
    private function goOver(Range $range, Node $node): iterable
    {
        [$start, $end] = [$range->start, $range->end];
        $days = $start instanceof Date && $end instanceof Date;
        $from = $days ? $start->days() : $start;
        $to = $days ? $end->days() : $end;
        if (! is_int($from) || ! is_int($to)) {
            $this->warn($node, 'Only ranges of whole numbers and of dates can be gone over.');

            return;
        }
        $step = $from <= $to ? 1 : -1;
        $from += $range->startIncluded ? 0 : $step;
        $to -= $range->endIncluded ? 0 : $step;
        for ($i = $from; $step > 0 ? $i <= $to : $i >= $to; $i += $step) {
            yield $days ? Date::fromDays($i) : $i;
        }
    }

    private function functionOf(FunctionOf $node, Scope $scope): FunctionValue
    {
        $names = array_column($node->parameters, 0);

        return new FunctionValue('function', $names, function (array $arguments, Warnings $warnings) use ($node, $names, $scope): mixed {
            if (count($arguments) !== count($names)) {
                return $warnings->add(sprintf('This function takes %d arguments, not %d.', count($names), count($arguments)), $node->from, $node->to);
            }
            foreach ($node->parameters as $i => [$name, $type]) {
                if ($type !== null && $arguments[$i] !== null && ! $type->holds($arguments[$i])) {
                    return $warnings->add(sprintf('%s must be %s.', $name, $type), $node->from, $node->to);
                }
            }
            $warnings->enter();
            $value = (new self($warnings))->value($node->body, new MapScope(array_combine($names, $arguments), $scope));
            $warnings->leave();

            return $value;
        }, count($names));
    }

    private function call(Call $node, Scope $scope): mixed
    {
        $function = $this->value($node->function, $scope);
        if (! $function instanceof FunctionValue) {
            return $function === null ? null : $this->warn($node, 'Only a function or a table can be called.');
        }
        $arguments = [];
        if (array_is_list($node->arguments)) {
            foreach ($node->arguments as $argument) {
                $arguments[] = $this->value($argument, $scope);
            }
        } else {
            $arguments = $this->named($function, $node, $scope);
        }
        if ($arguments === null || count($arguments) < $function->required || ($function->most() !== null && count($arguments) > $function->most())) {
            return $this->warn($node, sprintf('%s(%s) cannot be called with these %d arguments.', $function->name, implode(', ', $function->parameters), count($node->arguments)));
        }
        $before = count($this->warnings->all());
        $value = ($function->body)($arguments, $this->warnings);
        $this->warnings->stepFor($value);
        if (is_string($value) && strlen($value) > self::MAX_TEXT) {
            throw new EvaluationStopped('The text grew past a million characters.');
        }
        if ($value === null && count($this->warnings->all()) === $before && Functions::find($function->name) === $function && ! in_array(null, $arguments, true)) {
            $this->warn($node, sprintf('%s has no result for these values.', $function->name));
        }

        return $value;
    }

    /** @return list<mixed>|null */
    private function named(FunctionValue $function, Call $node, Scope $scope): ?array
    {
        $lists = [$function->parameters, ...$function->others];
        // where two lists have the same names, the order in which they are given tells which is meant
        usort($lists, fn (array $a, array $b): int => ($b === array_keys($node->arguments)) <=> ($a === array_keys($node->arguments)));
        foreach ($lists as $parameters) {
            if (array_diff(array_keys($node->arguments), $parameters) === []) {
                $arguments = [];
                $given = 0;
                foreach ($parameters as $i => $parameter) {
                    $arguments[] = isset($node->arguments[$parameter]) ? $this->value($node->arguments[$parameter], $scope) : null;
                    $given = isset($node->arguments[$parameter]) ? $i + 1 : $given;
                }

                return array_slice($arguments, 0, $given);
            }
        }

        return null;
    }

    private function warn(Node $node, string $message): null
    {
        return $this->warnings->add($message, $node->from, $node->to);
    }
}
