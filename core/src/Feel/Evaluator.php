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

/**
 * A tree and a scope to a value (DMN 1.5, 10.3.2). Whatever fails is null with a warning.
 */
final class Evaluator
{
    public function __construct(private readonly Warnings $warnings)
    {
    }

    public function value(Node $node, Scope $scope): mixed
    {
        $this->warnings->step();

        return match ($node::class) {
            Literal::class => $node->value,
            Name::class => Runtime::name($scope, $node->name, $this->warnings, $node->from, $node->to),
            Path::class => Runtime::part($this->value($node->of, $scope), $node->name, $this->warnings, $node->from, $node->to),
            Comparison::class => $this->comparison($node, $scope),
            Logic::class => $this->logic($node, $scope),
            Arithmetic::class => $this->arithmetic($node, $scope),
            Call::class => $this->call($node, $scope),
            IfThenElse::class => $this->value($this->value($node->condition, $scope) === true ? $node->then : $node->else, $scope),
            ListOf::class => array_map(fn (Node $item): mixed => $this->value($item, $scope), $node->items),
            In::class => $this->anyTest($node->tests, $this->value($node->value, $scope), $scope),
            Between::class => Runtime::between($this->value($node->value, $scope), $this->value($node->low, $scope), $this->value($node->high, $scope)),
            Negation::class => Runtime::negate($this->value($node->of, $scope), $this->warnings, $node->from, $node->to),
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
            return Runtime::test($test->operator, $value, $this->value($test->right, $inner), $this->warnings, $test->from, $test->to);
        }
        if ($test instanceof UnaryNot) {
            $any = $this->anyTest($test->tests, $value, $scope);

            return $any === null ? null : ! $any;
        }
        $result = $this->value($test, $inner);
        if (Walk::readsName($test, '?')) {
            return is_bool($result) ? $result : null;
        }

        return Runtime::fits($value, $result);
    }

    private function comparison(Comparison $node, Scope $scope): ?bool
    {
        $left = $this->value($node->left, $scope);
        $right = $this->value($node->right, $scope);

        return match ($node->operator) {
            '=' => Runtime::equal($left, $right, $this->warnings, $node->from, $node->to),
            '!=' => Runtime::unequal($left, $right, $this->warnings, $node->from, $node->to),
            default => Runtime::order($node->operator, $left, $right, $this->warnings, $node->from, $node->to),
        };
    }

    /** Three-valued, and stops as soon as the answer is known (10.3.2.10). */
    private function logic(Logic $node, Scope $scope): ?bool
    {
        $decides = $node->operator === 'or';
        $left = $this->value($node->left, $scope);
        if ($left === $decides) {
            return $decides;
        }

        return Runtime::logic($left, $this->value($node->right, $scope), $decides);
    }

    private function arithmetic(Arithmetic $node, Scope $scope): mixed
    {
        $left = $this->value($node->left, $scope);
        $right = $this->value($node->right, $scope);

        return $node->operator === '+'
            ? Runtime::add($left, $right, $this->warnings, $node->from, $node->to)
            : Runtime::arithmetic($node->operator, $left, $right, $this->warnings, $node->from, $node->to);
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

        return Runtime::range($node->startIncluded, $start, $end, $node->endIncluded, $node->start === null || $node->end === null, $this->warnings, $node->from, $node->to);
    }

    private function filter(Filter $node, Scope $scope): mixed
    {
        $list = $this->value($node->of, $scope);
        $index = Walk::readsAnyName($node->by) || $list === null ? null : $this->value($node->by, $scope);

        return Runtime::filter($list, is_int($index) ? $index : null, fn (mixed $item): mixed => $this->value($node->by, new MapScope(['item' => $item], $item instanceof Context ? new ContextScope($item, $scope) : $scope)), $this->warnings, $node->from, $node->to);
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
        foreach (Runtime::items($list, $this->warnings, $node->from, $node->to) as $item) {
            $this->warnings->step();
            yield from $this->combinations($iterators, new MapScope([$name => $item], $scope), $node);
        }
    }

    private function functionOf(FunctionOf $node, Scope $scope): FunctionValue
    {
        $names = array_column($node->parameters, 0);

        return Runtime::functionOf($names, array_column($node->parameters, 1), fn (array $arguments, Warnings $warnings): mixed => (new self($warnings))->value($node->body, new MapScope(array_combine($names, $arguments), $scope)), $node->from, $node->to);
    }

    private function call(Call $node, Scope $scope): mixed
    {
        $name = $node->function instanceof Name ? $node->function->name : '';
        $function = Functions::find($name) === null ? $this->value($node->function, $scope) : Runtime::callee($scope->get($name), $name);
        $given = array_map(fn (Node $argument): mixed => $this->value($argument, $scope), $node->arguments);

        return Runtime::call($function, $given, $this->warnings, $node->from, $node->to);
    }
}
