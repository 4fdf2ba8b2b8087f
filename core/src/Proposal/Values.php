<?php

declare(strict_types=1);

namespace Sorvel\Core\Proposal;

use Brick\Math\BigDecimal;
use Sorvel\Core\Feel\Node;
use Sorvel\Core\Feel\Node\Literal;
use Sorvel\Core\Feel\Number;
use Sorvel\Core\Feel\Temporal\Temporal;
use Sorvel\Core\Feel\Walk;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\FieldType;
use Sorvel\Core\Model\Option;
use Sorvel\Core\Model\Person;
use Sorvel\Core\Model\Rulebook;

/**
 * Values worth trying for a field: every option, each bound from both sides, what the formulas name, and nothing. Plain
 * data, as samples write it.
 */
final class Values
{
    private const MOST = 14;

    /** @var list<int|BigDecimal> */
    private array $numbers = [];

    /** @var list<string> */
    private array $texts = [];

    /** @var list<Temporal> */
    private array $moments = [];

    /** @param  iterable<Node>  $trees  the formulas that look at the fields */
    public function __construct(private readonly Rulebook $rulebook, iterable $trees, private readonly string $clock)
    {
        foreach ($trees as $tree) {
            foreach (Walk::all($tree) as $node) {
                if (! $node instanceof Literal) {
                    continue;
                }
                $value = $node->value;
                if (is_int($value) || $value instanceof BigDecimal) {
                    $this->numbers[] = $value;
                } elseif (is_string($value) && $value !== '' && mb_strlen($value) < 60) {
                    $this->texts[] = $value;
                } elseif ($value instanceof Temporal) {
                    $this->moments[] = $value;
                }
            }
        }
        $this->texts = array_values(array_unique($this->texts));
    }

    /** @return list<mixed> nothing stands last, unless the field must be filled */
    public function of(Field $field): array
    {
        $values = array_slice($this->filled($field), 0, self::MOST);
        if ($field->behavesAs() !== FieldType::State && ! $field->required) {
            $values[] = null;
        }

        return $values;
    }

    /** @return list<mixed> */
    private function filled(Field $field): array
    {
        $options = array_values(array_map(fn (Option $o): string => $o->key, array_filter($field->options, fn (Option $o): bool => $o->active)));
        $day = substr($this->clock, 0, 10);

        return match ($field->behavesAs()) {
            FieldType::Choice, FieldType::State => $options,
            FieldType::TwoStepChoice => array_values(array_map(fn (Option $o): string => $o->key, array_filter($field->options, fn (Option $o): bool => $o->active && $o->parent !== null))),
            FieldType::Choices => [...array_map(fn (string $o): array => [$o], $options), array_slice($options, 0, 2)],
            FieldType::YesNo => [true, false],
            FieldType::Number, FieldType::Percent => $this->numbers($field),
            FieldType::Date => [...array_map(fn (int $n): string => self::day($day, $n), [0, -1, 1, 30]), ...$this->written('date', fn (string $t): bool => preg_match('~^\d{4}-\d\d-\d\d$~', $t) === 1)],
            FieldType::DateTime => [$this->clock, self::day($day, -1).'T08:00:00', self::day($day, 1).'T08:00:00', self::day($day, -12).'T08:00:00'],
            FieldType::Duration => [...$this->written('duration', fn (string $t): bool => str_starts_with(ltrim($t, '-'), 'P')), 'PT1H', 'P2D'],
            FieldType::Tags => array_map(fn (string $t): array => [$t], array_values(array_filter(['seen', ...$this->texts], fn (string $t): bool => preg_match('~^[\p{L}\p{N}][\p{L}\p{N}_.:-]*$~u', $t) === 1))),
            FieldType::Person => $this->people(),
            FieldType::People => array_map(fn (string $p): array => [$p], $this->people()),
            FieldType::Team => array_slice(array_map(strval(...), array_keys($this->rulebook->teams)), 0, 3),
            FieldType::RichText => ['<p>Something</p>'],
            default => $field->pattern !== null ? array_values(array_filter([Pattern::example($field->pattern)])) : [...array_slice($this->texts, 0, 5), 'Something'],
        };
    }

    /** @return list<int> each whole number that is named, with one step to both sides, within bounds */
    public function whole(int $least, int $most): array
    {
        $found = [];
        foreach (array_filter($this->numbers, is_int(...)) as $number) {
            foreach ([$number - 1, $number, $number + 1] as $value) {
                if ($value >= $least && $value <= $most) {
                    $found[$value] = $value;
                }
            }
        }

        return array_values($found);
    }

    /** @return list<int|float|string> each number that is named, with one step to both sides */
    private function numbers(Field $field): array
    {
        [$min, $max] = $field->bounds();
        $step = Edges::step($field);
        $found = [];
        foreach ([...$this->numbers, ...array_values(array_filter([$min, $max]))] as $number) {
            foreach ([$number, Number::subtract($number, $step), Number::add($number, $step)] as $value) {
                if (($min === null || Number::compare($value, $min) >= 0) && ($max === null || Number::compare($value, $max) <= 0)) {
                    $found[Number::text($value)] = Number::json($value);
                }
            }
        }

        return array_values($found === [] ? [1, 0] : $found);
    }

    /**
     * @param  \Closure(string): bool  $fits
     * @return list<string>
     */
    private function written(string $what, \Closure $fits): array
    {
        $texts = array_map(fn (Temporal $t): string => (string) $t, $this->moments);

        return array_values(array_unique(array_filter([...$texts, ...$this->texts], fn (string $t): bool => $fits($t) && ($what === 'date' || preg_match('~^-?P(\d+[YMD])*(T(\d+[HMS])+)?$~', $t) === 1))));
    }

    /** @return list<string> people that are named, two others, and one who is away */
    private function people(): array
    {
        $named = array_filter($this->texts, fn (string $t): bool => isset($this->rulebook->people[$t]));
        $active = array_filter($this->rulebook->people, fn (Person $p): bool => $p->active);
        $away = array_filter($active, fn (Person $p): bool => $p->away);

        return array_values(array_unique(array_map(strval(...), [...$named, ...array_slice(array_keys(array_diff_key($active, $away)), 0, 2), ...array_slice(array_keys($away), 0, 1)])));
    }

    private static function day(string $day, int $plus): string
    {
        return (new \DateTimeImmutable($day))->modify(sprintf('%+d days', $plus))->format('Y-m-d');
    }
}
