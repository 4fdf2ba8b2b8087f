<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel;

use Brick\Math\BigDecimal;
use Sorvel\Core\Feel\Temporal\Date;
use Sorvel\Core\Feel\Temporal\Temporal;
use Sorvel\Core\Feel\Temporal\TemporalArithmetic;

/**
 * What the operators do with values: the one meaning that the evaluator and compiled formulas share. $from and $to are
 * the offsets that a warning carries.
 */
final class Runtime
{
    private const MAX_TEXT = 1_000_000;

    public static function name(Scope $scope, string $name, Warnings $warnings, int $from, int $to): mixed
    {
        // a built-in function of several words cannot be hidden: no field is called so
        if (str_contains($name, ' ') && ($function = Functions::find($name)) !== null) {
            return $function;
        }
        $value = $scope->get($name);
        if ($value !== null || $scope->has($name)) {
            return $value;
        }

        return Functions::find($name) ?? $warnings->add(sprintf('"%s" is not known here.', $name), $from, $to);
    }

    /** What is called under a name: a function in scope, else the built-in one; a field of that name hides neither. */
    public static function callee(mixed $value, string $name): mixed
    {
        return $value instanceof FunctionValue ? $value : Functions::find($name) ?? $value;
    }

    public static function part(mixed $of, string $name, Warnings $warnings, int $from, int $to): mixed
    {
        if ($of === null) {
            return null;
        }
        if ($of instanceof Context) {
            return $of->get($name) ?? ($of->has($name) ? null : $warnings->add(sprintf('There is no "%s" in it.', $name), $from, $to));
        }
        if (is_array($of)) {
            $warnings->step(count($of));

            $parts = [];
            foreach ($of as $item) {
                $parts[] = ($item instanceof Context ? $item->get($name) : null) ?? self::part($item, $name, $warnings, $from, $to);
            }

            return $parts;
        }
        if ($of instanceof Temporal) {
            return in_array($name, $of->properties(), true) ? $of->property($name) : $warnings->add(sprintf('%s has no "%s".', ucfirst(Values::kind($of)), $name), $from, $to);
        }
        if ($of instanceof Range) {
            return match ($name) {
                'start' => $of->start,
                'end' => $of->end,
                'start included' => $of->startIncluded,
                'end included' => $of->endIncluded,
                default => $warnings->add(sprintf('A range has no "%s".', $name), $from, $to),
            };
        }

        return $warnings->add(sprintf('%s has no "%s".', ucfirst(Values::kind($of)), $name), $from, $to);
    }

    public static function equal(mixed $left, mixed $right, Warnings $warnings, int $from, int $to): ?bool
    {
        if ((is_string($left) && is_string($right)) || (is_int($left) && is_int($right)) || $left === null || $right === null) {
            return $left === $right;
        }

        return Values::equal($left, $right) ?? self::incomparable($left, $right, $warnings, $from, $to);
    }

    public static function unequal(mixed $left, mixed $right, Warnings $warnings, int $from, int $to): ?bool
    {
        $equal = self::equal($left, $right, $warnings, $from, $to);

        return $equal === null ? null : ! $equal;
    }

    public static function order(string $operator, mixed $left, mixed $right, Warnings $warnings, int $from, int $to): ?bool
    {
        if (is_int($left) && is_int($right)) {
            return match ($operator) {
                '<' => $left < $right, '<=' => $left <= $right, '>' => $left > $right, default => $left >= $right
            };
        }

        return Values::ordered($operator, $left, $right) ?? self::incomparable($left, $right, $warnings, $from, $to);
    }

    /** As `order`, `=` and `!=` in a unary test: an empty value is no reason for a warning. */
    public static function test(string $operator, mixed $value, mixed $right, Warnings $warnings, int $from, int $to): ?bool
    {
        $result = match ($operator) {
            '=' => Values::equal($value, $right),
            '!=' => ($equal = Values::equal($value, $right)) === null ? null : ! $equal,
            default => Values::ordered($operator, $value, $right),
        };

        return $result ?? ($value === null || $right === null ? null : self::incomparable($value, $right, $warnings, $from, $to));
    }

    private static function incomparable(mixed $left, mixed $right, Warnings $warnings, int $from, int $to): null
    {
        return $warnings->add(sprintf('%s cannot be compared with %s.', ucfirst(Values::kind($left)), Values::kind($right)), $from, $to);
    }

    /** What a test that is an expression without `?` says (10.3.2.7). */
    public static function fits(mixed $value, mixed $result): ?bool
    {
        if (is_array($result) && ! is_array($value)) {
            foreach ($result as $item) {
                if (($item instanceof Range ? $item->holds($value) : Values::equal($value, $item)) === true) {
                    return true;
                }
            }

            return false;
        }

        return $result instanceof Range ? $result->holds($value) : Values::equal($value, $result);
    }

    public static function add(mixed $left, mixed $right, Warnings $warnings, int $from, int $to): mixed
    {
        if (is_int($left) && is_int($right)) {
            return Number::add($left, $right);
        }
        if (is_string($left) && is_string($right)) {
            if (strlen($left) + strlen($right) > self::MAX_TEXT) {
                throw new EvaluationStopped('The text grew past a million characters.');
            }
            $warnings->step((strlen($left) + strlen($right)) >> 7);

            return $left.$right;
        }

        return self::arithmetic('+', $left, $right, $warnings, $from, $to);
    }

    public static function arithmetic(string $operator, mixed $left, mixed $right, Warnings $warnings, int $from, int $to): mixed
    {
        if ($left instanceof Temporal || $right instanceof Temporal) {
            return TemporalArithmetic::of($operator, $left, $right) ?? $warnings->add(sprintf('"%s" gives nothing for %s and %s.', $operator, Values::kind($left), Values::kind($right)), $from, $to);
        }
        if ((! is_int($left) && ! $left instanceof BigDecimal) || (! is_int($right) && ! $right instanceof BigDecimal)) {
            return $warnings->add(sprintf('"%s" needs two numbers%s, not %s and %s.', $operator, $operator === '+' ? ' or two texts' : '', Values::kind($left), Values::kind($right)), $from, $to);
        }
        if ($operator === '**' && is_int($right)) {
            $warnings->step((int) min(1000, abs($right)));
        }
        $result = match ($operator) {
            '+' => Number::add($left, $right),
            '-' => Number::subtract($left, $right),
            '*' => Number::multiply($left, $right),
            '/' => Number::divide($left, $right) ?? $warnings->add('A number cannot be divided by zero.', $from, $to),
            default => Number::power($left, $right) ?? $warnings->add('This power cannot be computed.', $from, $to),
        };
        if ($result instanceof BigDecimal) {
            $warnings->stepFor($result);
        }

        return $result;
    }

    public static function negate(mixed $value, Warnings $warnings, int $from, int $to): mixed
    {
        if ($value instanceof Temporal) {
            return TemporalArithmetic::negate($value) ?? $warnings->add(sprintf('Minus needs a number or a duration, not %s.', Values::kind($value)), $from, $to);
        }

        return is_int($value) || $value instanceof BigDecimal ? Number::negate($value) : $warnings->add(sprintf('Minus needs a number, not %s.', Values::kind($value)), $from, $to);
    }

    /** The second half of `and` (false decides) or `or` (true decides), the first half having decided nothing. */
    public static function logic(mixed $left, mixed $right, bool $decides): ?bool
    {
        if ($right === $decides) {
            return $decides;
        }

        return is_bool($left) && is_bool($right) ? ! $decides : null;
    }

    public static function between(mixed $value, mixed $low, mixed $high): ?bool
    {
        return $value === null ? null : (new Range(true, $low, $high, true))->holds($value);
    }

    /** @param  bool  $open whether an end was left open on purpose */
    public static function range(bool $startIncluded, mixed $start, mixed $end, bool $endIncluded, bool $open, Warnings $warnings, int $from, int $to): ?Range
    {
        if (! $open && ($start === null || $end === null) || ($start === null && $end === null)) {
            return $warnings->add('An end of this range is empty.', $from, $to);
        }

        return new Range($startIncluded, $start, $end, $endIncluded);
    }

    /**
     * @param  int|null  $index  when the filter is a number known beforehand
     * @param  \Closure(mixed): mixed  $by  what the filter says of an item
     */
    public static function filter(mixed $list, ?int $index, \Closure $by, Warnings $warnings, int $from, int $to): mixed
    {
        if ($list === null) {
            return null;
        }
        $list = is_array($list) ? $list : [$list];
        if ($index !== null) {
            return $list[$index > 0 ? $index - 1 : count($list) + $index] ?? $warnings->add('The list has no item there.', $from, $to);
        }
        $found = [];
        foreach ($list as $item) {
            $warnings->step();
            $holds = $by($item);
            if ($holds === true) {
                $found[] = $item;
            } elseif (is_int($holds)) {
                return $list[$holds > 0 ? $holds - 1 : count($list) + $holds] ?? $warnings->add('The list has no item there.', $from, $to);
            }
        }

        return $found;
    }

    /** @return iterable<mixed> what `for`, `some` and `every` go over */
    public static function items(mixed $list, Warnings $warnings, int $from, int $to): iterable
    {
        if ($list instanceof Range) {
            return self::goOver($list, $warnings, $from, $to);
        }

        return is_array($list) ? $list : ($list === null ? [] : [$list]);
    }

    /** @return iterable<mixed> whole numbers or days from one end to the other, downwards too */
    private static function goOver(Range $range, Warnings $warnings, int $at, int $until): iterable
    {
        [$start, $end] = [$range->start, $range->end];
        $days = $start instanceof Date && $end instanceof Date;
        $from = $days ? $start->days() : $start;
        $to = $days ? $end->days() : $end;
        if (! is_int($from) || ! is_int($to)) {
            $warnings->add('Only ranges of whole numbers and of dates can be gone over.', $at, $until);

            return;
        }
        $step = $from <= $to ? 1 : -1;
        $from += $range->startIncluded ? 0 : $step;
        $to -= $range->endIncluded ? 0 : $step;
        for ($i = $from; $step > 0 ? $i <= $to : $i >= $to; $i += $step) {
            yield $days ? Date::fromDays($i) : $i;
        }
    }

    /**
     * @param  list<string>  $names
     * @param  list<TypeName|null>  $types
     * @param  \Closure(list<mixed>, Warnings): mixed  $body
     */
    public static function functionOf(array $names, array $types, \Closure $body, int $from, int $to): FunctionValue
    {
        return new FunctionValue('function', $names, static function (array $arguments, Warnings $warnings) use ($names, $types, $body, $from, $to): mixed {
            if (count($arguments) !== count($names)) {
                return $warnings->add(sprintf('This function takes %d arguments, not %d.', count($names), count($arguments)), $from, $to);
            }
            foreach ($types as $i => $type) {
                if ($type !== null && $arguments[$i] !== null && ! $type->holds($arguments[$i])) {
                    return $warnings->add(sprintf('%s must be %s.', $names[$i], $type), $from, $to);
                }
            }
            $warnings->enter();
            $value = $body($arguments, $warnings);
            $warnings->leave();

            return $value;
        }, count($names));
    }

    /**
     * A built-in function with as many arguments as it takes.
     *
     * @param  list<mixed>  $arguments
     */
    public static function builtIn(string $name, array $arguments, Warnings $warnings, int $from, int $to): mixed
    {
        $function = Functions::find($name) ?? throw new \LogicException('No function '.$name);

        return self::result($function, $arguments, true, $warnings, $from, $to);
    }

    /**
     * As `call`, for what is no built-in function, with positional arguments: mostly a table.
     *
     * @param  list<mixed>  $arguments
     */
    public static function callTable(mixed $function, array $arguments, Warnings $warnings, int $from, int $to): mixed
    {
        if (! $function instanceof FunctionValue || $function->most !== $function->required || count($arguments) !== $function->required) {
            return self::call($function, $arguments, $warnings, $from, $to);
        }
        $warnings->step();
        $value = ($function->body)($arguments, $warnings);
        if (is_array($value)) {
            $warnings->step(count($value));
        }

        return $value;
    }

    /**
     * @param  array<int|string, mixed>  $given  positional (a list) or named (a map) arguments, evaluated
     */
    public static function call(mixed $function, array $given, Warnings $warnings, int $from, int $to): mixed
    {
        if (! $function instanceof FunctionValue) {
            return $function === null ? null : $warnings->add('Only a function or a table can be called.', $from, $to);
        }
        $arguments = array_is_list($given) ? $given : self::named($function, $given);
        if ($arguments === null || count($arguments) < $function->required || ($function->most !== null && count($arguments) > $function->most)) {
            return $warnings->add(sprintf('%s(%s) cannot be called with these %d arguments.', $function->name, implode(', ', $function->parameters), count($given)), $from, $to);
        }

        return self::result($function, $arguments, Functions::find($function->name) === $function, $warnings, $from, $to);
    }

    /** @param  list<mixed>  $arguments */
    private static function result(FunctionValue $function, array $arguments, bool $isBuiltIn, Warnings $warnings, int $from, int $to): mixed
    {
        $warnings->step();
        $before = $warnings->count();
        $value = ($function->body)($arguments, $warnings);
        if (is_string($value) || is_array($value) || is_object($value)) {
            $warnings->stepFor($value);
            if (is_string($value) && strlen($value) > self::MAX_TEXT) {
                throw new EvaluationStopped('The text grew past a million characters.');
            }
        }
        if ($value === null && $isBuiltIn && $warnings->count() === $before && ! in_array(null, $arguments, true)) {
            return $warnings->add(sprintf('%s has no result for these values.', $function->name), $from, $to);
        }

        return $value;
    }

    /**
     * @param  array<int|string, mixed>  $given
     * @return list<mixed>|null
     */
    private static function named(FunctionValue $function, array $given): ?array
    {
        $lists = [$function->parameters, ...$function->others];
        // where two lists have the same names, the order in which they are given tells which is meant
        usort($lists, fn (array $a, array $b): int => ($b === array_keys($given)) <=> ($a === array_keys($given)));
        foreach ($lists as $parameters) {
            if (array_diff(array_keys($given), $parameters) === []) {
                $arguments = [];
                $count = 0;
                foreach ($parameters as $i => $parameter) {
                    $arguments[] = $given[$parameter] ?? null;
                    $count = array_key_exists($parameter, $given) ? $i + 1 : $count;
                }

                return array_slice($arguments, 0, $count);
            }
        }

        return null;
    }
}
