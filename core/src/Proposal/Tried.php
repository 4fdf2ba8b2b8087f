<?php

declare(strict_types=1);

namespace Sorvel\Core\Proposal;

use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Rulebook;

/** What rules have met, read off traces: a word for each value that a rule read, and for how much its look-ups found. */
final class Tried
{
    /** @param  int  $count  0 none, 1 one, more: several */
    public static function found(string $rule, string $lookUp, int $count): string
    {
        return sprintf('found %s %s %d', $rule, $lookUp, min(2, $count));
    }

    /** @param  string  $variable  as {@see Stories} calls it: f.FIELD of the record, TYPE.FIELD of one that it refers to */
    public static function value(string $rule, string $variable, mixed $plain): string
    {
        return sprintf('tried %s %s %s', $rule, $variable, json_encode($plain, JSON_UNESCAPED_UNICODE | JSON_INVALID_UTF8_SUBSTITUTE));
    }

    /**
     * @param  array<string, mixed>  $trace  of one event, in full
     * @return list<string>
     */
    public static function marks(array $trace, Rulebook $rulebook): array
    {
        $type = $rulebook->types[$trace['event']['type'] ?? ''] ?? null;
        if ($type === null) {
            return [];
        }
        $marks = [];
        foreach ($trace['passes'] as $pass) {
            foreach ($pass['rules'] as $look) {
                $reads = [$look['only_if'] ?? [], ...array_values($look['checks'] ?? []), ...array_values($look['changes'] ?? []), ...array_values($look['look_ups'] ?? [])];
                foreach ($look['look_ups'] ?? [] as $lookUp) {
                    $marks[self::found($look['rule'], $lookUp['name'], (int) $lookUp['found'])] = true;
                }
                $marks += self::read($look['rule'], $reads, $type);
            }
        }
        foreach ($trace['actions'] as $action) {
            $marks += self::read($action['rule'], [$action], $type);
        }

        return array_keys($marks);
    }

    /**
     * @param  list<array<string, mixed>>  $parts  of a trace, each with its reads
     * @return array<string, true>
     */
    private static function read(string $rule, array $parts, RecordType $type): array
    {
        $marks = [];
        foreach ($parts as $part) {
            foreach ($part['reads'] ?? [] as $path => $value) {
                $names = explode('.', (string) $path);
                $variable = match (count($names)) {
                    1 => 'f.'.$names[0],
                    2 => (($type->fields[$names[0]] ?? null)->to ?? '').'.'.$names[1],
                    default => null,
                };
                if ($variable !== null && ! is_array($value)) {
                    $marks[self::value($rule, $variable, $value)] = true;
                }
            }
        }

        return $marks;
    }
}
