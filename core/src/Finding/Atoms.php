<?php

declare(strict_types=1);

namespace Sorvel\Core\Finding;

use Brick\Math\BigDecimal;
use Sorvel\Core\Feel\Node;
use Sorvel\Core\Feel\Node\Literal;
use Sorvel\Core\Feel\Number;
use Sorvel\Core\Feel\Temporal\Date;
use Sorvel\Core\Feel\UnaryTests;
use Sorvel\Core\Feel\Walk;
use Sorvel\Core\Model\FieldType;
use Sorvel\Core\Model\Option;

/** Cuts what a column's value may be into atoms: every option, every bound, something between each two, and nothing. */
final class Atoms
{
    /**
     * @param  list<UnaryTests>  $tests  the cells of the column
     * @return list<Atom>|null null where it cannot be told: the tests read more than the value
     */
    public static function of(array $tests, KnownType $type): ?array
    {
        foreach ($tests as $test) {
            foreach ($test->tests as $node) {
                if (array_diff(Walk::names($node), ['?']) !== []) {
                    return null;
                }
            }
        }
        $literals = self::literals($tests);
        $atoms = match ($type->what) {
            'choice' => self::options($type, $literals),
            'yes_no' => [new Atom(true, 'is yes'), new Atom(false, 'is no')],
            'number' => self::numbers($type, $literals),
            'date' => self::dates($literals),
            'text', 'person', 'team' => self::texts($literals),
            default => null,
        };
        if ($atoms === null) {
            return null;
        }
        $isState = $type->field?->type === FieldType::State;

        // what must be filled is never empty
        return $isState || $type->field?->required === true ? $atoms : [...$atoms, new Atom(null, 'is empty')];
    }

    /**
     * @param  list<UnaryTests>  $tests
     * @return list<mixed> every literal in them, each once; numbers also negated
     */
    private static function literals(array $tests): array
    {
        $found = [];
        foreach ($tests as $test) {
            foreach ($test->tests as $node) {
                foreach (Walk::all($node) as $inner) {
                    foreach (self::valuesOf($inner) as $value) {
                        $found[is_object($value) ? $value::class.' '.(method_exists($value, '__toString') ? (string) $value : '') : get_debug_type($value).' '.json_encode($value)] = $value;
                    }
                }
            }
        }

        return array_values($found);
    }

    /** @return list<mixed> */
    private static function valuesOf(Node $node): array
    {
        if (! $node instanceof Literal || $node->value === null || is_bool($node->value)) {
            return [];
        }

        return $node->value instanceof BigDecimal || is_int($node->value) ? [$node->value, Number::negate($node->value)] : [$node->value];
    }

    /**
     * @param  list<mixed>  $literals
     * @return list<Atom>
     */
    private static function options(KnownType $type, array $literals): array
    {
        $options = array_filter($type->field->options ?? [], fn (Option $o): bool => $o->active || in_array($o->key, $literals, true));

        return array_values(array_map(fn (Option $o): Atom => new Atom($o->key, 'is '.$o->label), $options));
    }

    /**
     * @param  list<mixed>  $literals
     * @return list<Atom>
     */
    private static function numbers(KnownType $type, array $literals): array
    {
        [$min, $max] = $type->field?->bounds() ?? [null, null];
        $cuts = array_values(array_filter($literals, fn (mixed $v): bool => (is_int($v) || $v instanceof BigDecimal) && ($min === null || Number::compare($v, $min) >= 0) && ($max === null || Number::compare($v, $max) <= 0)));
        usort($cuts, fn (int|BigDecimal $a, int|BigDecimal $b): int => Number::compare($a, $b));
        $step = $type->field?->decimals;
        $atoms = [];
        $whole = $step === 0;
        $add = function (int|BigDecimal $value, string $words) use (&$atoms): void {
            $atoms[] = new Atom($value, $words);
        };
        if ($cuts === []) {
            $add($min ?? 1, 'is '.Number::text($min ?? 1));

            return $atoms;
        }
        $first = $cuts[0];
        if ($min === null || Number::compare($min, $first) < 0) {
            $below = Number::subtract($first, 1);
            $add($min !== null && Number::compare($below, $min) < 0 ? $min : $below, 'is below '.Number::text($first));
        }
        foreach ($cuts as $i => $cut) {
            $add($cut, 'is '.Number::text($cut));
            $next = $cuts[$i + 1] ?? null;
            if ($next === null) {
                if ($max === null || Number::compare($cut, $max) < 0) {
                    $above = Number::add($cut, 1);
                    $add($max !== null && Number::compare($above, $max) > 0 ? $max : $above, 'is above '.Number::text($cut));
                }
            } else {
                $between = Number::divide(Number::add($cut, $next), 2) ?? $cut;
                $between = $whole && ! is_int($between) ? Number::add($cut, 1) : $between;
                if (Number::compare($between, $next) < 0) {
                    $add($between, sprintf('is between %s and %s', Number::text($cut), Number::text($next)));
                }
            }
        }

        return $atoms;
    }

    /**
     * @param  list<mixed>  $literals
     * @return list<Atom>|null
     */
    private static function dates(array $literals): ?array
    {
        $days = array_map(fn (Date $d): int => $d->days(), array_values(array_filter($literals, fn (mixed $v): bool => $v instanceof Date)));
        if ($days === []) {
            return null;
        }
        sort($days);
        $atoms = [new Atom(Date::fromDays($days[0] - 1), 'is before '.Date::fromDays($days[0]))];
        foreach ($days as $i => $day) {
            $atoms[] = new Atom(Date::fromDays($day), 'is '.Date::fromDays($day));
            if (! isset($days[$i + 1]) || $days[$i + 1] > $day + 1) {
                $atoms[] = new Atom(Date::fromDays($day + 1), 'is after '.Date::fromDays($day));
            }
        }

        return $atoms;
    }

    /**
     * @param  list<mixed>  $literals
     * @return list<Atom>
     */
    private static function texts(array $literals): array
    {
        $texts = array_values(array_filter($literals, is_string(...)));
        $other = 'something else';
        while (in_array($other, $texts, true)) {
            $other .= '.';
        }

        return [...array_map(fn (string $t): Atom => new Atom($t, 'is "'.$t.'"'), $texts), new Atom($other, $texts === [] ? 'is filled' : 'is something else')];
    }
}
