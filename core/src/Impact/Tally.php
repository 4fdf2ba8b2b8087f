<?php

declare(strict_types=1);

namespace Sorvel\Core\Impact;

use Sorvel\Core\Model\Rulebook;

/** What many past events came to together; tallies of parts are joined. Its size does not grow with the number of events. */
final class Tally
{
    private const LINES = 500;

    private const VALUES = 40;

    /** @var array{events: int, same: int, otherwise: int, not_known: int} */
    private array $counts = ['events' => 0, 'same' => 0, 'otherwise' => 0, 'not_known' => 0];

    /** @var array<string, array{starts: int, stops: int, fields: int}> by rule */
    private array $rules = [];

    /** @var array<string, array{count: int, values: array<string, int>}> by type.field, and in it by "was\0would" */
    private array $fields = [];

    /** @var array<string, array{events: int, otherwise: int}> by month */
    private array $months = [];

    /** @var array<string, int> by reason */
    private array $gaps = [];

    /** @var list<array<string, mixed>> the first of those that come out otherwise */
    private array $lines = [];

    public function __construct(private readonly Rulebook $rulebook)
    {
    }

    /** @param  int|string  $number  by which the event is found again */
    public function take(PastEvent $past, Effect $effect, int|string $number): void
    {
        $this->counts['events']++;
        $this->counts[$effect->verdict]++;
        $month = substr($past->at, 0, 7);
        $this->months[$month] ??= ['events' => 0, 'otherwise' => 0];
        $this->months[$month]['events']++;
        if ($effect->verdict === 'not_known') {
            $why = (string) preg_replace('~\b[A-Z]{1,4}-\d+\b~', '…', (string) $effect->why);
            $this->gaps[$why] = ($this->gaps[$why] ?? 0) + 1;
        }
        if ($effect->verdict !== 'otherwise') {
            return;
        }
        $this->months[$month]['otherwise']++;
        foreach (['starts' => $effect->starts, 'stops' => $effect->stops, 'fields' => array_unique(array_filter(array_column($effect->fields, 'rule')))] as $what => $rules) {
            foreach ($rules as $rule) {
                $this->rules[$rule] ??= ['starts' => 0, 'stops' => 0, 'fields' => 0];
                $this->rules[$rule][$what]++;
            }
        }
        foreach ($effect->fields as $field) {
            $key = $past->type.'.'.$field['field'];
            $pair = self::shown($field['was'])."\0".self::shown($field['would']);
            $this->fields[$key] ??= ['count' => 0, 'values' => []];
            $this->fields[$key]['count']++;
            if (isset($this->fields[$key]['values'][$pair]) || count($this->fields[$key]['values']) < self::VALUES) {
                $this->fields[$key]['values'][$pair] = ($this->fields[$key]['values'][$pair] ?? 0) + 1;
            }
        }
        if (count($this->lines) < self::LINES) {
            $this->lines[] = ['number' => $number, 'record' => $past->id, 'name' => $past->title($this->rulebook->types[$past->type] ?? null), 'type' => $past->type, 'kind' => $past->kind, 'at' => $past->at, 'by' => $past->by, 'fields' => $effect->fields, 'starts' => $effect->starts, 'stops' => $effect->stops, 'why' => $effect->why];
        }
    }

    private static function shown(mixed $value): string
    {
        return mb_strimwidth((string) json_encode($value, JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES), 0, 80, '…');
    }

    /** @return array<string, mixed> plain data, which {@see join} takes */
    public function toArray(): array
    {
        return ['counts' => $this->counts, 'rules' => $this->rules, 'fields' => $this->fields, 'months' => $this->months, 'gaps' => $this->gaps, 'lines' => $this->lines];
    }

    /**
     * @param  list<array<string, mixed>>  $parts  as {@see toArray} gives them, in order
     * @return array<string, mixed> counts; rules, fields with their values, months and gaps as lists, the most first; lines
     */
    public static function join(array $parts): array
    {
        $counts = ['events' => 0, 'same' => 0, 'otherwise' => 0, 'not_known' => 0];
        [$rules, $fields, $months, $gaps, $lines] = [[], [], [], [], []];
        foreach ($parts as $part) {
            foreach ($counts as $what => $count) {
                $counts[$what] = $count + ($part['counts'][$what] ?? 0);
            }
            foreach ([[&$rules, $part['rules'] ?? []], [&$months, $part['months'] ?? []]] as [&$into, $from]) {
                foreach ($from as $key => $figures) {
                    foreach ($figures as $what => $count) {
                        $into[$key][$what] = ($into[$key][$what] ?? 0) + $count;
                    }
                }
            }
            foreach ($part['gaps'] ?? [] as $why => $count) {
                $gaps[$why] = ($gaps[$why] ?? 0) + $count;
            }
            foreach ($part['fields'] ?? [] as $key => $field) {
                $fields[$key] ??= ['count' => 0, 'values' => []];
                $fields[$key]['count'] += $field['count'];
                foreach ($field['values'] as $pair => $count) {
                    $fields[$key]['values'][$pair] = ($fields[$key]['values'][$pair] ?? 0) + $count;
                }
            }
            array_push($lines, ...array_slice($part['lines'] ?? [], 0, max(0, self::LINES - count($lines))));
        }
        ksort($months);
        uasort($fields, fn (array $a, array $b): int => $b['count'] <=> $a['count']);
        uasort($rules, fn (array $a, array $b): int => array_sum($b) <=> array_sum($a));
        arsort($gaps);
        $list = [];
        foreach ($fields as $key => $field) {
            arsort($field['values']);
            $values = [];
            foreach (array_slice($field['values'], 0, self::VALUES, true) as $pair => $count) {
                [$was, $would] = explode("\0", (string) $pair, 2) + [1 => 'null'];
                $values[] = ['was' => json_decode($was), 'would' => json_decode($would), 'count' => $count];
            }
            [$type, $name] = explode('.', (string) $key, 2) + [1 => ''];
            $list[] = ['type' => $type, 'field' => $name, 'count' => $field['count'], 'values' => $values];
        }

        return [
            'counts' => $counts,
            'rules' => array_map(fn (string|int $key, array $r): array => ['rule' => (string) $key, ...$r], array_keys($rules), $rules),
            'fields' => $list,
            'months' => array_map(fn (string|int $key, array $m): array => ['month' => (string) $key, ...$m], array_keys($months), $months),
            'gaps' => array_map(fn (string|int $why, int $count): array => ['why' => (string) $why, 'count' => $count], array_keys($gaps), $gaps),
            'lines' => $lines,
        ];
    }
}
