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
        $type = match ($step->kind) {
            StepKind::Create => $this->type($step->target, $path.'/create'),
            StepKind::Change => $this->recordType($step->target, $path.'/change'),
            StepKind::Clock => null,
        };
        if ($type !== null) {
            $this->fields($step->with, $type, $path.'/with');
            if ($step->kind === StepKind::Create && $step->as !== null) {
                $this->record($step->as, $type, $path.'/as');
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
