<?php

declare(strict_types=1);

namespace Sorvel\Core\Finding\Check;

use Sorvel\Core\Finding\Book;
use Sorvel\Core\Finding\Check;
use Sorvel\Core\Finding\Finding;
use Sorvel\Core\Finding\Weight;
use Sorvel\Core\Rule\RelatedStart;

/** Rules that make each other due, round and round, with the fields that carry it. */
final class Circles implements Check
{
    public function look(Book $book): iterable
    {
        $next = $this->steps($book);
        foreach (self::knots(array_map(fn (array $to): array => array_keys($to), $next)) as $rules) {
            $way = self::round($rules, $next);
            $carried = [];
            foreach ($way as $i => $rule) {
                $to = $way[($i + 1) % count($way)];
                $carried[] = sprintf('%s changes %s, at which %s starts', $book->title($rule), $book->label($next[$rule][$to]), $book->title($to));
            }
            yield new Finding(
                'circle', Weight::Attention, 'rules', $way[0], '/starts', 'Rules may go round in a circle: '.Book::and($carried).'.',
                'Each change wakes the next rule. Where they do not agree on a value the record does not settle, and the values of the first round stand.',
                'Let one of them look only at what people change, or keep a value that is there already (when: empty).', array_slice($way, 1),
            );
        }
    }

    /** @return array<string, array<string, string>> by rule: the rules that it may make due, and the field that does it */
    private function steps(Book $book): array
    {
        $follows = $this->follows($book);
        $watched = [];
        foreach ($book->rules() as $rule) {
            foreach ($rule->on as $type) {
                foreach ($rule->watches as $field) {
                    $watched[$type.'.'.$field][] = $rule->key;
                }
                foreach ($rule->starts as $start) {
                    $to = $start instanceof RelatedStart ? $book->rulebook->types[$type]->fields[$start->via]->to ?? null : null;
                    foreach ($start instanceof RelatedStart && $to !== null ? $start->fields : [] as $field) {
                        $watched[$to.'.'.$field][] = $rule->key;
                    }
                }
            }
        }
        $written = $book->written();
        $next = [];
        foreach ($book->rules() as $rule) {
            $next[$rule->key] = [];
            $open = array_map(strval(...), array_keys($written[$rule->key] ?? []));
            $seen = array_fill_keys($open, true);
            while (($field = array_shift($open)) !== null) {
                foreach ($watched[$field] ?? [] as $other) {
                    if ($other !== $rule->key) {
                        $next[$rule->key][$other] ??= $field;
                    }
                }
                foreach ($follows[$field] ?? [] as $more) {
                    if (! isset($seen[$more])) {
                        $seen[$more] = true;
                        $open[] = $more;
                    }
                }
            }
        }

        return $next;
    }

    /** @return array<string, list<string>> by field: the derived and mirrored fields that follow it */
    private function follows(Book $book): array
    {
        $follows = [];
        foreach ($book->mentions as $mention) {
            $at = $book->locate($mention->path);
            $field = $mention->field->of.'.'.$mention->field->key;
            if ($at !== null && $at[0] === 'types' && preg_match('~^/fields/(\d+)/(formula|tally)~', $at[2], $match) === 1) {
                $follows[$field][] = $at[1].'.'.$book->part('types', $at[1])['fields'][(int) $match[1]]['key'];
            } elseif ($at !== null && $at[0] === 'mirrors' && str_starts_with($at[2], '/from')) {
                $mirror = $book->rulebook->mirrors[$at[1]];
                foreach ($mirror->on as $type) {
                    $follows[$field][] = $type.'.'.$mirror->field;
                }
            }
        }

        return $follows;
    }

    /**
     * Strongly connected sets of at least two (Tarjan).
     *
     * @param  array<string, list<int|string>>  $next
     * @return list<list<string>>
     */
    private static function knots(array $next): array
    {
        [$index, $low, $stack, $on, $found, $count] = [[], [], [], [], [], 0];
        $visit = function (string $at) use (&$visit, &$index, &$low, &$stack, &$on, &$found, &$count, $next): void {
            $index[$at] = $low[$at] = $count++;
            $stack[] = $at;
            $on[$at] = true;
            foreach ($next[$at] ?? [] as $to) {
                $to = (string) $to;
                if (! isset($index[$to])) {
                    $visit($to);
                    $low[$at] = min($low[$at], $low[$to]);
                } elseif (isset($on[$to])) {
                    $low[$at] = min($low[$at], $index[$to]);
                }
            }
            if ($low[$at] === $index[$at]) {
                $knot = [];
                do {
                    $one = (string) array_pop($stack);
                    unset($on[$one]);
                    $knot[] = $one;
                } while ($one !== $at);
                if (count($knot) > 1) {
                    $found[] = $knot;
                }
            }
        };
        foreach (array_keys($next) as $rule) {
            isset($index[$rule]) || $visit((string) $rule);
        }

        return $found;
    }

    /**
     * A shortest way round inside a knot.
     *
     * @param  list<string>  $rules
     * @param  array<string, array<string, string>>  $next
     * @return non-empty-list<string>
     */
    private static function round(array $rules, array $next): array
    {
        $best = $rules;
        foreach ($rules as $start) {
            $from = [$start => null];
            $open = [$start];
            while (($at = array_shift($open)) !== null) {
                foreach (array_keys($next[$at] ?? []) as $to) {
                    $to = (string) $to;
                    if ($to === $start) {
                        $way = [];
                        for ($step = $at; $step !== null; $step = $from[$step]) {
                            array_unshift($way, $step);
                        }
                        $best = count($way) < count($best) ? $way : $best;

                        continue 3;
                    }
                    if (! array_key_exists($to, $from) && in_array($to, $rules, true)) {
                        $from[$to] = $at;
                        $open[] = $to;
                    }
                }
            }
        }

        return $best === [] ? [''] : $best;
    }
}
