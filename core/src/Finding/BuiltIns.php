<?php

declare(strict_types=1);

namespace Sorvel\Core\Finding;

/** What the built-in functions give, where that does not depend on what they are given. */
final class BuiltIns
{
    private const GIVE = [
        'number' => ['string length', 'count', 'sum', 'product', 'mean', 'median', 'stddev', 'decimal', 'floor', 'ceiling', 'round up', 'round down', 'round half up', 'round half down', 'exp', 'log', 'modulo', 'sqrt', 'number', 'day of year', 'week of year'],
        'text' => ['upper case', 'lower case', 'substring before', 'substring after', 'substring', 'replace', 'string join', 'string', 'plain text', 'tag', 'day of week', 'month of year'],
        'yes_no' => ['contains', 'starts with', 'ends with', 'matches', 'all', 'any', 'list contains', 'odd', 'even', 'not', 'is', 'before', 'after', 'meets', 'met by', 'overlaps', 'overlaps before', 'overlaps after', 'finishes', 'finished by', 'includes', 'during', 'starts', 'started by', 'coincides'],
        'list' => ['split', 'index of', 'append', 'concatenate', 'union', 'distinct values', 'reverse', 'flatten', 'sublist', 'insert before', 'remove', 'list replace', 'sort', 'mode', 'get entries'],
        'context' => ['context', 'context put', 'context merge'],
        'date' => ['date', 'today'],
        'date_time' => ['date and time', 'now'],
        'time' => ['time'],
        'duration' => ['duration', 'years and months duration'],
    ];

    /** Those whose list has in it what the first argument has in it. */
    private const SAME_LIST = ['append', 'concatenate', 'union', 'distinct values', 'reverse', 'sublist', 'insert before', 'remove', 'sort'];

    /** @param  array<int, KnownType>  $given  types of positional arguments */
    public static function give(string $function, array $given): KnownType
    {
        foreach (self::GIVE as $what => $names) {
            if (in_array($function, $names, true)) {
                return new KnownType($what, each: in_array($function, self::SAME_LIST, true) ? ($given[0]->each ?? null) : null);
            }
        }

        return KnownType::any();
    }
}
