<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

use Sorvel\Core\Feel\Temporal\Date;
use Sorvel\Core\Feel\Temporal\DateTime;
use Sorvel\Core\Feel\Temporal\DaysDuration;
use Sorvel\Core\Feel\Temporal\MonthsDuration;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\FieldType;

/** Which values a field takes for sure, as PHP; over the EventScope $e. */
final class Fitting
{
    /** Somebody who is there to be set. */
    public const PERSON = '(($y=$e->person($x))!==null)';

    public const LONG_TEXT = '(is_string($y=$x)&&$x!==\'\'&&!isset($x[2000])&&preg_match(\'~^[\n -\x7e]+$~D\',$x)===1)';

    /** A short line of plain letters. */
    public const TEXT = '(is_string($y=$x)&&$x!==\'\'&&!isset($x[300])&&preg_match(\'~^[ -\x7e]+$~D\',$x)===1)';

    /** A condition under which $x fits the field for sure, and leaves what is stored in $y; null when it takes more to know. */
    public static function condition(Field $field): ?string
    {
        return match ($field->type) {
            FieldType::Number, FieldType::Percent => self::number($field),
            FieldType::Choice => sprintf('is_string($y=$x)&&isset(%s[$x])', self::places($field)),
            FieldType::YesNo => 'is_bool($y=$x)',
            FieldType::Text => $field->pattern === null ? self::TEXT : null,
            FieldType::LongText => $field->pattern === null ? self::LONG_TEXT : null,
            FieldType::Person => self::PERSON,
            FieldType::Team => '($y=$e->team($x))!==null',
            FieldType::Reference => sprintf('is_string($y=$x)&&isset(($e->met[$y]??$e->meet($y,%s))->id)', var_export((string) $field->to, true)),
            FieldType::Date => sprintf('($y=\\%s::date($x))!==null', self::class),
            FieldType::Duration => sprintf('($y=\\%s::duration($x))!==null', self::class),
            default => null,
        };
    }

    /** A date as it is stored, when it is one of a year of four digits; null when that takes more to know. */
    public static function date(mixed $value): ?string
    {
        $date = $value instanceof DateTime ? $value->date : $value;
        $text = $date instanceof Date ? (string) $date : '';

        return strlen($text) === 10 ? $text : null;
    }

    /** A duration as it is stored; null when that takes more to know. */
    public static function duration(mixed $value): ?string
    {
        return $value instanceof DaysDuration || $value instanceof MonthsDuration ? (string) $value : null;
    }

    private static function number(Field $field): ?string
    {
        $conditions = ['is_int($y=$x)'];
        foreach (array_combine(['>=', '<='], $field->bounds()) as $sign => $bound) {
            if ($bound !== null && ! is_int($bound)) {
                return null;
            }
            if ($bound !== null) {
                $conditions[] = sprintf('$x%s(%d)', $sign, $bound);
            }
        }

        return implode('&&', $conditions);
    }

    /** The options that are in use, each with its place. */
    private static function places(Field $field): string
    {
        $places = [];
        foreach (array_keys($field->options) as $place => $key) {
            if ($field->options[$key]->active) {
                $places[] = var_export((string) $key, true).'=>'.$place;
            }
        }

        return '['.implode(',', $places).']';
    }
}
