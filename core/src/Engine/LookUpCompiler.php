<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Feel\Node;
use Sorvel\Core\Feel\Walk;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Rule\ActionChange;
use Sorvel\Core\Rule\Criteria;
use Sorvel\Core\Rule\LookUp;
use Sorvel\Core\Rule\Rule;
use Sorvel\Core\Table\Row;

/** What a rule asks of other records, and what waits until its own has settled, as PHP. */
final class LookUpCompiler
{
    /**
     * What a look-up asks of a store, and of each candidate.
     *
     * @param  array<string, RecordType>  $types
     * @return string the source of a map, by look-up: a closure (EventScope $e, Scope $s, Warnings $w): list of what its criteria are computed from, {@see Criteria::conditions}, or null; one of the same that gives the conditions themselves, or null; a closure (Record $o, EventScope $e, Scope $s, Warnings $w): bool, or null; and the second once more, which notes in the Reads $z what it read
     */
    public static function finds(Rule $rule, RecordType $type, array $types): string
    {
        if (array_filter($rule->lookUps, fn (LookUp $l): bool => $l->type !== null) === []) {
            return '[]';
        }
        [$of, $full] = [new RuleReader($rule, $type, $types), new RuleReader($rule, $type, $types, true)];
        $sources = [];
        foreach ($rule->lookUps as $name => $lookUp) {
            if ($lookUp->type === null) {
                continue;
            }
            $conditions = $lookUp->criteria->source($of->paths);
            $nodes = $conditions === null ? array_map(fn (Node $n): string => $of->light->expression($n), $lookUp->criteria->nodes()) : [];
            // what reads a look-up may come back to this one
            $isOwn = $lookUp->where !== null && array_intersect(Walk::names($lookUp->where->tree), array_map(strval(...), array_keys($rule->lookUps))) === [];
            $holds = ! $isOwn || $lookUp->where === null ? null : Paths::candidate($lookUp->where, $lookUp->type, $type, $types, $of->record);
            $noted = $conditions === null ? null : $lookUp->criteria->source($full->fullPaths);
            $sources[] = sprintf(
                '%s=>[%s,%s,%s,%s]', RuleReader::text((string) $name), $nodes === [] ? 'null' : 'static fn($e,$s,$w)=>['.implode(',', $nodes).']', $conditions === null ? 'null' : 'static fn($e,$s,$w)=>'.$conditions,
                $holds === null ? 'null' : 'static fn($o,$e,$s,$w)=>'.$holds, $noted === null ? 'null' : 'static fn($e,$s,$w,$z)=>'.$noted,
            );
        }

        return '['.implode(',', $sources).']';
    }

    /**
     * Formulas that wait until the record has settled.
     *
     * @param  array<string, RecordType>  $types
     * @return string the source of a map, by formula: a closure (EventScope $e, Scope $s, Warnings $w): mixed, and one (EventScope $e, Scope $s, Warnings $w, Reads $z): mixed that notes what it reads
     */
    public static function waiting(Rule $rule, RecordType $type, array $types): string
    {
        if ($rule->waiting === []) {
            return '[]';
        }
        [$of, $noted] = [new RuleReader($rule, $type, $types), new RuleReader($rule, $type, $types, true)];
        $sources = [];
        foreach ($rule->waiting as $column => $change) {
            foreach ([...array_map(fn (Row $row): ?Formula => $row->then[$column], $rule->rows), ...($change instanceof ActionChange ? $change->formulas() : [])] as $formula) {
                $formula === null || $sources[$formula->source] = sprintf('%s=>[static fn($e,$s,$w)=>%s,static fn($e,$s,$w,$z)=>%s]', RuleReader::text($formula->source), $of->light->expression($formula->tree), $noted->full->expression($formula->tree));
            }
        }

        return '['.implode(',', $sources).']';
    }
}
