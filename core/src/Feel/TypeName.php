<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel;

use Brick\Math\BigDecimal;
use Sorvel\Core\Feel\Temporal\Temporal;

/** A type as it is written after `instance of` or beside a parameter (10.3.1.2, rules 64 to 67; 10.3.2.4). */
final class TypeName implements \Stringable
{
    public const PLAIN = ['Any', 'Null', 'number', 'string', 'boolean', 'date', 'time', 'date and time', 'days and time duration', 'years and months duration'];

    /**
     * @param  string  $name  a plain one, or list, range, context, function
     * @param  array<int|string, TypeName>  $parts  of a list or range its items, of a context its entries, of a function its parameters
     */
    public function __construct(public readonly string $name, public readonly array $parts = [], public readonly ?TypeName $returns = null)
    {
    }

    public function holds(mixed $value): bool
    {
        if ($value === null) {
            return $this->name === 'Null' || $this->name === 'Any';
        }

        return match ($this->name) {
            'Any' => true,
            'number' => Number::is($value),
            'string' => is_string($value),
            'boolean' => is_bool($value),
            'list' => is_array($value) && $this->all($value),
            'context' => $value instanceof Context && $this->entries($value),
            'range' => $value instanceof Range && $this->ends($value),
            'function' => $value instanceof FunctionValue,
            default => $value instanceof Temporal && $value->type() === $this->name,
        };
    }

    /** @param  array<array-key, mixed>  $items */
    private function all(array $items): bool
    {
        $of = $this->parts[0] ?? null;
        if ($of === null) {
            return true;
        }
        foreach ($items as $item) {
            if (! $of->holds($item)) {
                return false;
            }
        }

        return true;
    }

    private function entries(Context $value): bool
    {
        foreach ($this->parts as $name => $type) {
            if (! $value->has((string) $name) || ! $type->holds($value->get((string) $name))) {
                return false;
            }
        }

        return true;
    }

    private function ends(Range $value): bool
    {
        $of = $this->parts[0] ?? null;

        return $of === null || (($value->start === null || $of->holds($value->start)) && ($value->end === null || $of->holds($value->end)));
    }

    public static function of(mixed $value): string
    {
        return match (true) {
            $value === null => 'Null',
            is_int($value), $value instanceof BigDecimal => 'number',
            is_string($value) => 'string',
            is_bool($value) => 'boolean',
            is_array($value) => 'list',
            $value instanceof Temporal => $value->type(),
            $value instanceof Range => 'range',
            $value instanceof Context => 'context',
            default => 'function',
        };
    }

    public function __toString(): string
    {
        $parts = [];
        foreach ($this->parts as $name => $type) {
            $parts[] = is_string($name) ? $name.': '.$type : (string) $type;
        }

        return $this->name.($this->parts === [] && $this->returns === null ? '' : '<'.implode(', ', $parts).'>').($this->returns === null ? '' : '->'.$this->returns);
    }
}
