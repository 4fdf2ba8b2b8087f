<?php

declare(strict_types=1);

namespace Sorvel\Core\Format;

use Cron\CronExpression;
use Sorvel\Core\Finding\FormulaCheck;
use Sorvel\Core\Finding\KnownType;
use Sorvel\Core\Finding\Names;
use Sorvel\Core\Model\Role;
use Sorvel\Core\Rule\AnsweredStart;
use Sorvel\Core\Rule\AtStart;
use Sorvel\Core\Rule\ByHandStart;
use Sorvel\Core\Rule\ChangedStart;
use Sorvel\Core\Rule\CreatedStart;
use Sorvel\Core\Rule\Criteria;
use Sorvel\Core\Rule\DeletedStart;
use Sorvel\Core\Rule\Question;
use Sorvel\Core\Rule\ReceivedStart;
use Sorvel\Core\Rule\RelatedStart;
use Sorvel\Core\Rule\Start;

/** Starts. A new kind is registered here. */
final class StartBuilder
{
    private const KINDS = ['related', 'changed', 'received', 'answered', 'at', 'by_hand'];

    public function __construct(private readonly RuleContext $rule)
    {
    }

    /** @param  int  $place  among the rule's starts */
    public function start(mixed $start, string $path, int $place): ?Start
    {
        if ($start === 'created') {
            return new CreatedStart;
        }
        if ($start === 'deleted') {
            return new DeletedStart;
        }
        $kind = is_array($start) ? array_values(array_intersect(self::KINDS, array_keys($start)))[0] ?? null : null;
        if (! is_array($start) || $kind === null) {
            $this->rule->book->error($path, sprintf('%s is not a start; write created, deleted, or one of {changed: [fields]}, {received: message}, {answered: call}, {at: cron}, {by_hand: {}}, {related: field}.', is_scalar($start) ? '"'.$start.'"' : 'This'));

            return null;
        }
        $this->rule->only($start, $path, sprintf('the start "%s"', $kind), $kind, ...match ($kind) {
            'changed' => ['from', 'to'], 'related' => ['changed'], 'at' => ['for'], default => []
        });

        return match ($kind) {
            'changed' => $this->changed($start, $path),
            'received' => new ReceivedStart,
            'answered' => new AnsweredStart($start['answered']),
            'at' => $this->at($start, $path, $place),
            'by_hand' => $this->byHand((array) $start['by_hand'], $path.'/by_hand'),
            default => $this->related($start, $path),
        };
    }

    /** @param  array<string, mixed>  $start */
    private function changed(array $start, string $path): ChangedStart
    {
        $known = KnownType::any();
        foreach ($start['changed'] as $i => $key) {
            $field = $this->rule->field($key, $path.'/changed/'.$i);
            $known = $field === null ? $known : KnownType::ofField($field, $this->rule->types);
        }
        $tests = [];
        foreach (['from', 'to'] as $end) {
            $tests[$end] = isset($start[$end]) ? $this->rule->book->tests($path.'/'.$end, $start[$end]) : null;
            if (isset($start[$end]) && count($start['changed']) > 1) {
                $this->rule->book->error($path.'/'.$end, sprintf('"%s" needs a start on a single field.', $end));
            } elseif ($tests[$end] !== null) {
                $this->rule->testsOf($path.'/'.$end, $tests[$end], array_map(fn (Names $n): KnownType => $n->names[$start['changed'][0]] ?? $known, $this->rule->names));
            }
        }

        return new ChangedStart($start['changed'], $tests['from'], $tests['to']);
    }

    /** @param  array<string, mixed>  $start */
    private function at(array $start, string $path, int $place): AtStart
    {
        $cron = trim((string) $start['at']);
        if (count(preg_split('~\s+~', $cron) ?: []) !== 5 || ! CronExpression::isValidExpression($cron)) {
            $this->rule->book->error($path.'/at', sprintf('"%s" is not a schedule: five parts for minute, hour, day, month and weekday; an example is "0 7 * * 1-5", at seven on workdays.', mb_strimwidth($cron, 0, 60, '…')));
        }
        $for = isset($start['for']) ? $this->rule->book->formula($path.'/for', $start['for']) : null;
        if ($for !== null) {
            foreach ($this->rule->names as $names) {
                $this->rule->book->take($path.'/for', FormulaCheck::condition($for, $names));
            }
        }
        $criteria = [];
        foreach ($this->rule->on as $type) {
            $criteria[$type->key] = Criteria::of($for, $type);
        }

        return new AtStart($place, $cron, $for, $criteria);
    }

    /** @param  array<string, mixed>  $start */
    private function byHand(array $start, string $path): ByHandStart
    {
        $questions = [];
        foreach ($start['ask'] ?? [] as $i => $ask) {
            $field = (new TypeBuilder($this->rule->book))->question($ask, $path.'/ask/'.$i, array_map(strval(...), array_keys($this->rule->types)));
            if ($this->rule->book->isNew($path.'/ask/'.$i, $field->key, $questions, 'a question')) {
                $questions[$field->key] = new Question($field);
            }
        }

        return new ByHandStart(array_values(array_map(Role::from(...), $start['roles'] ?? [])), array_values($questions));
    }

    /** @param  array<string, mixed>  $start */
    private function related(array $start, string $path): ?RelatedStart
    {
        $via = $this->rule->field($start['related'], $path.'/related');
        if ($via === null) {
            return null;
        }
        $to = $via->to === null ? null : $this->rule->types[$via->to] ?? null;
        if ($to === null) {
            $this->rule->book->error($path.'/related', sprintf('%s refers to no other record.', $via->label));

            return null;
        }
        foreach ($start['changed'] ?? [] as $i => $key) {
            $this->rule->book->fieldOf($to, $key, $path.'/changed/'.$i);
        }

        return new RelatedStart($via->key, $start['changed'] ?? []);
    }

    /**
     * What the names of `event` are in a rule with these starts.
     *
     * @param  list<Start>  $starts
     */
    public static function event(array $starts): KnownType
    {
        $text = new KnownType('text');
        $parts = ['kind' => $text, 'by' => new KnownType('person'), 'at' => new KnownType('date_time'), 'changed' => KnownType::listOf($text)];
        foreach ($starts as $start) {
            if ($start instanceof ReceivedStart) {
                $parts['message'] = new KnownType('context', parts: ['from' => $text, 'subject' => $text, 'text' => $text, 'html' => $text]);
            } elseif ($start instanceof AnsweredStart) {
                $parts = [...$parts, 'call' => $text, 'status' => new KnownType('number'), 'body' => KnownType::any()];
            } elseif ($start instanceof ByHandStart) {
                $inputs = [];
                foreach ($start->questions as $question) {
                    $inputs[$question->field->key] = KnownType::ofField($question->field, []);
                }
                $parts['inputs'] = new KnownType('context', parts: $inputs);
            }
        }

        return new KnownType('context', parts: $parts);
    }
}
