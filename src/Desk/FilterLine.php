<?php

declare(strict_types=1);

namespace Sorvel\App\Desk;

use Sorvel\App\Http\Problem;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\FieldType;

/** One line of a filter: a field, a test, and what it is tested against. */
final class FilterLine
{
    public const WATCHED = 'watcher';

    private const MOST_VALUES = 100;

    /** @param  list<string>  $of  stored values as the index holds them */
    private function __construct(public readonly string $field, public readonly Test $test, public readonly array $of, public readonly bool $isNumber)
    {
    }

    /**
     * @param  array<string, list<Field>>  $fields  by key, one for each type that has it
     * @param  string  $me  who `@me` is
     * @return list<self>
     */
    public static function read(string $json, array $fields, string $me, \DateTimeImmutable $now): array
    {
        $lines = $json === '' ? [] : json_decode($json, true, 8);
        if (! is_array($lines) || ! array_is_list($lines) || count($lines) > 20) {
            throw self::wrong(0, 'Filters are a list of at most 20 lines: [{"field": …, "is": …, "of": […]}].');
        }

        return array_values(array_map(fn (mixed $line, int $i): self => self::line(is_array($line) ? $line : [], $i, $fields, $me, $now), $lines, array_keys($lines)));
    }

    /** The field is one of some values; an empty text asks for the empty ones. */
    public static function equals(string $key, string $value, ?Field $field = null): self
    {
        $isNumber = in_array($field?->behavesAs(), [FieldType::Number, FieldType::Percent], true);

        return new self($key, $value === '' ? Test::Empty : Test::Any, $value === '' ? [] : [$value], $isNumber);
    }

    /**
     * @param  array<mixed>  $line
     * @param  array<string, list<Field>>  $fields
     */
    private static function line(array $line, int $i, array $fields, string $me, \DateTimeImmutable $now): self
    {
        $key = is_string($line['field'] ?? null) ? $line['field'] : '';
        if (! isset($fields[$key]) && $key !== self::WATCHED) {
            throw self::wrong($i, sprintf('There is no field "%s" to filter by.', mb_strimwidth($key, 0, 40, '…')));
        }
        $test = is_string($line['is'] ?? null) ? Test::tryFrom($line['is']) : null;
        if ($test === null) {
            throw self::wrong($i, 'A line tests with one of: '.implode(', ', array_column(Test::cases(), 'value')).'.');
        }
        $of = [];
        foreach (is_array($line['of'] ?? null) ? $line['of'] : [] as $value) {
            if (! is_scalar($value) || mb_strlen((string) $value) > 190) {
                throw self::wrong($i, 'Values are texts of at most 190 characters.');
            }
            $of[] = $value === '@me' ? $me : (is_bool($value) ? ($value ? 'true' : 'false') : (string) $value);
        }
        if (count($of) > self::MOST_VALUES || ($test->needsValues() && $of === [])) {
            throw self::wrong($i, $of === [] ? 'This test needs a value.' : sprintf('At most %d values fit in a line.', self::MOST_VALUES));
        }
        $field = $fields[$key][0] ?? null;
        $isNumber = $field !== null && in_array($field->behavesAs(), [FieldType::Number, FieldType::Percent], true);
        if ($test->compares()) {
            $isMoment = in_array($field?->behavesAs(), [FieldType::Date, FieldType::DateTime], true);
            if (! $isNumber && ! $isMoment) {
                throw self::wrong($i, 'Only numbers and dates are compared.');
            }
            if ($test === Test::Within) {
                if (! $isMoment || ! ctype_digit($of[0]) || (int) $of[0] > 36_500) {
                    throw self::wrong($i, 'It must be a number of days, for a date.');
                }
                $of = [$now->modify('-'.$of[0].' days')->format($field->behavesAs() === FieldType::Date ? 'Y-m-d' : 'Y-m-d\\TH:i:s\\Z')];
            } elseif ($isNumber && ! is_numeric($of[0])) {
                throw self::wrong($i, sprintf('"%s" is not a number.', mb_strimwidth($of[0], 0, 40, '…')));
            }
        }

        return new self($key, $test, $of, $isNumber);
    }

    private static function wrong(int $line, string $detail): Problem
    {
        return new Problem(422, 'The list cannot be shown like this.', 'Mend the filter and try again.', [['pointer' => '/lines/'.$line, 'detail' => $detail]]);
    }
}
