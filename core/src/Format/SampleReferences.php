<?php

declare(strict_types=1);

namespace Sorvel\Core\Format;

use Sorvel\Core\Feel\FeelError;
use Sorvel\Core\Feel\UnaryTests;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Rulebook;
use Sorvel\Core\Replay\Sample;
use Sorvel\Core\Replay\Step;
use Sorvel\Core\Replay\StepKind;
use Sorvel\Core\Rule\CallChange;
use Sorvel\Core\Rule\ChangeColumn;
use Sorvel\Core\Rule\Question;
use Sorvel\Core\Rule\Rule;

/** Finds types, fields, people, rules and records that a sample names and that are not there. */
final class SampleReferences
{
    /** @var list<InputError> */
    private array $errors = [];

    /** @var array<string, RecordType> by record id */
    private array $records = [];

    public function __construct(private readonly Sample $sample, private readonly Rulebook $rulebook, private readonly string $path)
    {
    }

    /** @return list<InputError> */
    public function errors(): array
    {
        foreach ($this->sample->rules as $i => $rule) {
            $this->rule($rule, $this->path.'/rules/'.$i);
        }
        foreach ($this->sample->given as $key => $records) {
            $type = $this->type((string) $key, $this->path.'/given/'.$key);
            if ($type === null) {
                continue;
            }
            foreach ($records as $i => $record) {
                $path = $this->path.'/given/'.$key.'/'.$i;
                $this->record((string) $record['id'], $type, $path.'/id');
                unset($record['id']);
                $this->fields($record, $type, $path);
            }
        }
        foreach ($this->sample->steps as $i => $step) {
            $this->step($step, $this->path.'/steps/'.$i);
        }

        return $this->errors;
    }

    private function step(Step $step, string $path): void
    {
        if ($step->by !== null && ! isset($this->rulebook->people[$step->by])) {
            $this->unknown($path.'/by', 'person', $step->by, array_keys($this->rulebook->people));
        }
        $opens = $step->kind === StepKind::Receive && isset($step->data['opens']);
        $type = match ($step->kind) {
            StepKind::Create => $this->type($step->target, $path.'/create'),
            StepKind::Change => $this->recordType($step->target, $path.'/change'),
            StepKind::Delete => $this->recordType($step->target, $path.'/delete'),
            StepKind::Receive => $opens ? $this->type($step->target, $path.'/receive/opens') : $this->recordType($step->target, $path.'/receive/about'),
            StepKind::ByHand, StepKind::Answer => $step->on === null ? null : $this->recordType($step->on, $path.'/on'),
            StepKind::Clock => null,
        };
        if ($step->kind === StepKind::ByHand) {
            $this->byHand($step, $type, $path);
        } elseif ($step->kind === StepKind::Answer) {
            $calls = array_merge(...array_values(array_map(fn (Rule $r): array => array_map(fn (ChangeColumn $c): string => $c instanceof CallChange ? $c->key : '', $r->changes), $this->rulebook->rules)), ...[[]]);
            in_array($step->target, $calls, true) || $this->unknown($path.'/answer/call', 'call', $step->target, array_values(array_filter($calls)));
        } elseif ($type !== null) {
            $this->fields($step->with, $type, $path.'/with');
            if (($step->kind === StepKind::Create || $opens) && $step->as !== null) {
                $this->record($step->as, $type, $path.'/as');
            }
        }
        foreach ($step->expect->unchanged as $i => $id) {
            $this->recordType($id, $path.'/expect/unchanged/'.$i);
        }
        foreach ($step->expect->done['created'] ?? [] as $i => $created) {
            $of = is_string($created['type'] ?? null) ? $this->type($created['type'], $path.'/expect/created/'.$i.'/type') : null;
            if ($of !== null) {
                $this->fields((array) ($created['with'] ?? []), $of, $path.'/expect/created/'.$i.'/with');
            }
        }
        foreach (['acted', 'still', 'problems'] as $what) {
            foreach ($step->expect->$what as $i => $rule) {
                $this->rule($rule, $path.'/expect/'.$what.'/'.$i);
            }
        }
        foreach ($step->expect->records as $id => $fields) {
            $of = $this->recordType((string) $id, $path.'/expect/'.$id);
            if ($of !== null) {
                $this->fields($fields, $of, $path.'/expect/'.$id);
            }
            foreach ($fields as $key => $value) {
                if (is_array($value) && isset($value['test'])) {
                    $this->test($value['test'], $path.'/expect/'.$id.'/'.$key.'/test');
                }
            }
        }
    }

    private function byHand(Step $step, ?RecordType $type, string $path): void
    {
        $this->rule($step->target, $path.'/by_hand');
        $rule = $this->rulebook->rules[$step->target] ?? null;
        if ($rule === null) {
            return;
        }
        $start = $rule->byHand();
        if ($start === null) {
            $this->errors[] = new InputError($path.'/by_hand', sprintf('"%s" is not started by hand.', $rule->key));
        } elseif ($type !== null && ! in_array($type->key, $rule->on, true)) {
            $this->errors[] = new InputError($path.'/on', sprintf('"%s" does not run on a %s.', $rule->key, mb_strtolower($type->title)));
        }
        $asked = array_map(fn (Question $q): string => $q->field->key, $start->questions ?? []);
        foreach (array_diff(array_map(strval(...), array_keys($step->with)), $asked) as $key) {
            $this->unknown($path.'/with/'.$key, 'question of this rule', $key, $asked);
        }
    }

    private function test(mixed $text, string $path): void
    {
        try {
            UnaryTests::parse(RulebookBuilder::text($text));
        } catch (FeelError $error) {
            $this->errors[] = new InputError($path, $error->getMessage(), null, null, $error->from, $error->to);
        }
    }

    private function type(string $key, string $path): ?RecordType
    {
        $type = $this->rulebook->types[$key] ?? null;
        if ($type === null) {
            $this->unknown($path, 'record type', $key, array_keys($this->rulebook->types));
        }

        return $type;
    }

    private function record(string $id, RecordType $type, string $path): void
    {
        if (isset($this->records[$id])) {
            $this->errors[] = new InputError($path, sprintf('There is already a record "%s" in this sample.', $id));
        }
        $this->records[$id] = $type;
    }

    private function recordType(string $id, string $path): ?RecordType
    {
        if (! isset($this->records[$id]) && preg_match('~^(.+)-[1-9]\d*$~', $id, $made) === 1) {
            // rules may make records, whose ids count up
            foreach ($this->rulebook->types as $type) {
                if ($made[1] === ($type->short ?? strtoupper($type->key))) {
                    return $type;
                }
            }
        }
        if (! isset($this->records[$id])) {
            $this->unknown($path, 'record in this sample', $id, array_keys($this->records));
        }

        return $this->records[$id] ?? null;
    }

    /** @param  array<string, mixed>  $fields */
    private function fields(array $fields, RecordType $type, string $path): void
    {
        foreach (array_keys($fields) as $key) {
            if (! isset($type->fields[$key])) {
                $this->unknown($path.'/'.$key, 'field of '.$type->title, (string) $key, array_keys($type->fields));
            }
        }
    }

    private function rule(string $key, string $path): void
    {
        if (! isset($this->rulebook->rules[$key])) {
            $this->unknown($path, 'rule', $key, array_keys($this->rulebook->rules));
        }
    }

    /** @param  list<int|string>  $known */
    private function unknown(string $path, string $what, string $word, array $known): void
    {
        $near = Nearest::to($word, array_map(strval(...), $known));
        $this->errors[] = new InputError($path, sprintf('There is no %s "%s"%s', $what, mb_strimwidth($word, 0, 60, '…'), $near === null ? '.' : '; did you mean "'.$near.'"?'));
    }
}
