<?php

declare(strict_types=1);

namespace Sorvel\Core\Format;

use Sorvel\Core\Model\Rulebook;
use Sorvel\Core\Replay\Expectation;
use Sorvel\Core\Replay\Sample;
use Sorvel\Core\Replay\Step;
use Sorvel\Core\Replay\StepKind;

/** The tree of one sample, which fits the schema, to a Sample. */
final class SampleBuilder
{
    private const DONE = ['messages', 'calls', 'created', 'notes', 'notices'];

    /** @var list<InputError> */
    private array $errors = [];

    private function __construct(private readonly string $path)
    {
    }

    /**
     * @param  array<string, mixed>  $tree
     * @param  string  $path  where the sample stands in its file
     *
     * @throws InvalidInput for what is not supported yet, or means nothing
     */
    public static function build(array $tree, string $path = ''): Sample
    {
        $builder = new self($path);
        $sample = $builder->sample($tree);
        if ($builder->errors !== []) {
            throw new InvalidInput($builder->errors);
        }

        return $sample;
    }

    /** @param  array<string, mixed>  $tree */
    private function sample(array $tree): Sample
    {
        $lines = [];
        foreach (isset($tree['variants']) ? $this->lines($tree) : [] as $line) {
            $lines[] = $this->sample($line);
        }
        if ($lines !== []) {
            return new Sample($tree['key'], $tree['title'], $tree['proves'], $tree['rules'] ?? [], $lines[0]->clock, $lines[0]->given, $lines[0]->steps, $lines);
        }
        $steps = [];
        foreach ($tree['steps'] as $i => $step) {
            $made = $this->step($step, $this->path.'/steps/'.$i);
            if ($made !== null) {
                $steps[] = $made;
            }
        }

        return new Sample($tree['key'], $tree['title'], $tree['proves'], $tree['rules'] ?? [], $this->moment($tree['clock'] ?? Sample::FIRST_CLOCK, $this->path.'/clock'), (array) ($tree['given'] ?? []), $steps);
    }

    /**
     * One tree a line of the variants. An input is a field of the last step, or ID.field of a given record; an outcome is
     * ID.field of what the last step comes to.
     *
     * @param  array<string, mixed>  $tree
     * @return list<array<string, mixed>>
     */
    private function lines(array $tree): array
    {
        $variants = $tree['variants'];
        unset($tree['variants']);
        $last = count($tree['steps']) - 1;
        $path = $this->path.'/variants';
        foreach (['inputs' => 'in', 'outcomes' => 'out'] as $columns => $side) {
            if (count(array_unique($variants[$columns])) !== count($variants[$columns])) {
                $this->error($path.'/'.$columns, 'A column stands there twice.');
            }
            foreach ($variants['lines'] as $i => $line) {
                if (count($line[$side]) !== count($variants[$columns])) {
                    $this->error($path.'/lines/'.$i.'/'.$side, sprintf('%d values for %d %s.', count($line[$side]), count($variants[$columns]), $columns));
                }
            }
        }
        if ($this->errors !== []) {
            return [];
        }
        $lines = [];
        foreach ($variants['lines'] as $line) {
            $told = $tree;
            foreach ($variants['inputs'] as $column => $input) {
                [$id, $field] = str_contains($input, '.') ? explode('.', $input, 2) : [null, $input];
                if ($id === null) {
                    $told['steps'][$last]['with'][$field] = $line['in'][$column];
                } elseif (! $this->give($told, $id, $field, $line['in'][$column])) {
                    $this->error($path.'/inputs/'.$column, sprintf('There is no given record "%s".', $id));

                    return [];
                }
            }
            foreach ($variants['outcomes'] as $column => $outcome) {
                [$id, $field] = explode('.', $outcome, 2);
                $told['steps'][$last]['expect'][$id][$field] = $line['out'][$column];
            }
            $lines[] = $told;
        }

        return $lines;
    }

    /** @param  array<string, mixed>  $tree */
    private function give(array &$tree, string $id, string $field, mixed $value): bool
    {
        foreach ($tree['given'] ?? [] as $type => $records) {
            foreach ($records as $i => $record) {
                if ((string) $record['id'] === $id) {
                    $tree['given'][$type][$i][$field] = $value;

                    return true;
                }
            }
        }

        return false;
    }

    /** @param  array<string, mixed>  $step */
    private function step(array $step, string $path): ?Step
    {
        $words = array_map(fn (StepKind $k): string => $k->value, StepKind::cases());
        $kinds = array_values(array_intersect($words, array_keys($step)));
        if (count($kinds) !== 1) {
            $this->error($path, 'A step is one of '.implode(', ', $words).'.');

            return null;
        }
        $kind = StepKind::from($kinds[0]);
        $foreign = match ($kind) {
            StepKind::Create => ['on'],
            StepKind::Change => ['as', 'repeat', 'on'],
            StepKind::Delete => ['as', 'repeat', 'with', 'on'],
            StepKind::Receive => ['repeat', 'on', 'by'],
            StepKind::ByHand => ['as', 'repeat'],
            StepKind::Answer => ['as', 'repeat', 'with', 'by'],
            StepKind::Clock => ['as', 'repeat', 'by', 'with', 'on'],
        };
        foreach ($foreign as $key) {
            if (isset($step[$key])) {
                $this->error($path.'/'.$key, sprintf('"%s" means nothing for the step "%s".', $key, $kind->value));
            }
        }
        $data = match ($kind) {
            StepKind::Receive => (array) $step['receive'], StepKind::Answer => (array) $step['answer'], default => []
        };
        $target = match ($kind) {
            StepKind::Clock => $this->moment($step['clock'], $path.'/clock'),
            StepKind::Receive => $this->received($data, $step, $path),
            StepKind::Answer => $this->answered($data, $path),
            default => $step[$kind->value],
        };
        if ($kind === StepKind::ByHand && ! isset($step['on'])) {
            $this->error($path, 'A rule started by hand needs "on", the record.');
        }

        return new Step($kind, $target, $step['as'] ?? null, $step['by'] ?? null, (array) ($step['with'] ?? []), $step['repeat'] ?? 1, $this->expectation($step['expect'] ?? [], $path.'/expect'), $step['on'] ?? null, $data);
    }

    /**
     * @param  array<string, mixed>  $message
     * @param  array<string, mixed>  $step
     */
    private function received(array $message, array $step, string $path): string
    {
        foreach (array_diff(array_keys($message), ['from', 'subject', 'text', 'html', 'about', 'opens']) as $key) {
            $this->error($path.'/receive/'.$key, sprintf('A message has no "%s"; it has from, subject, text or html, and about or opens.', $key));
        }
        foreach (['from', 'subject', 'text', 'html', 'about', 'opens'] as $key) {
            if (isset($message[$key]) && ! is_string($message[$key])) {
                $this->error($path.'/receive/'.$key, 'This must be a text.');
            }
        }
        if (! is_string($message['from'] ?? null)) {
            $this->error($path.'/receive', 'A message needs "from", an address.');
        }
        if (isset($message['about']) === isset($message['opens'])) {
            $this->error($path.'/receive', 'A message is "about" a record, or "opens" one of a type.');
        }
        if (isset($message['about']) && isset($step['as'])) {
            $this->error($path.'/as', '"as" is for a message that opens a record.');
        }

        return is_string($message['about'] ?? null) ? $message['about'] : (is_string($message['opens'] ?? null) ? $message['opens'] : '');
    }

    /** @param  array<string, mixed>  $answer */
    private function answered(array $answer, string $path): string
    {
        foreach (array_diff(array_keys($answer), ['call', 'status', 'body']) as $key) {
            $this->error($path.'/answer/'.$key, sprintf('An answer has no "%s"; it has call, status and body.', $key));
        }
        if (! is_string($answer['call'] ?? null)) {
            $this->error($path.'/answer', 'An answer needs "call", the key of the call.');
        }
        if (isset($answer['status']) && (! is_int($answer['status']) || $answer['status'] < 100 || $answer['status'] > 599)) {
            $this->error($path.'/answer/status', 'A status is a number from 100 to 599; left out when there was no answer.');
        }

        return is_string($answer['call'] ?? null) ? $answer['call'] : '';
    }

    /** @param  array<string, mixed>  $tree */
    private function expectation(array $tree, string $path): Expectation
    {
        $done = [];
        foreach (self::DONE as $key) {
            foreach (isset($tree[$key]) ? (array) $tree[$key] : [] as $i => $one) {
                $known = self::expects($key);
                foreach (is_array($one) ? array_diff(array_keys($one), $known) : [''] as $word) {
                    $this->error($path.'/'.$key.'/'.$i.($word === '' ? '' : '/'.$word), sprintf('Of %s can be expected: %s.', $key, implode(', ', $known)));
                }
            }
            if (isset($tree[$key])) {
                $done[$key] = array_values(array_filter((array) $tree[$key], is_array(...)));
            }
        }
        $records = array_diff_key($tree, array_flip(['acted', 'still', 'problems', 'refused', 'unchanged', ...self::DONE]));

        return new Expectation(array_map(fn (mixed $fields): array => (array) $fields, $records), $tree['acted'] ?? [], $tree['still'] ?? [], $tree['problems'] ?? [], $tree['refused'] ?? null, array_values(array_map(strval(...), $tree['unchanged'] ?? [])), $done);
    }

    /** @return list<string> what can be expected of one */
    private static function expects(string $what): array
    {
        return match ($what) {
            'messages' => ['to', 'subject', 'contains'],
            'calls' => ['call', 'body'],
            'created' => ['type', 'with'],
            'notes' => ['contains', 'for', 'on'],
            default => ['people', 'contains'],
        };
    }

    private function moment(string $text, string $path): string
    {
        if (preg_match('~^\d{4}-\d{2}-\d{2}(T\d{2}:\d{2}(:\d{2})?(Z|[+-]\d{2}:\d{2})?)?$~', $text) !== 1 || strtotime($text) === false) {
            $this->error($path, sprintf('"%s" is not a moment; an example is 2027-03-04T09:00:00.', mb_strimwidth($text, 0, 40, '…')));
        }

        return $text;
    }

    private function error(string $path, string $message): void
    {
        $this->errors[] = new InputError($path, $message);
    }

    /**
     * What a sample names that the rulebook does not have. Such a sample is broken: it cannot be replayed.
     *
     * @return list<InputError>
     */
    public static function strangers(Sample $sample, Rulebook $rulebook, string $path = ''): array
    {
        return (new SampleReferences($sample, $rulebook, $path))->errors();
    }
}
