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
    private const NOT_YET = ['delete', 'receive', 'by_hand', 'on', 'answer'];

    private const EXPECT_NOT_YET = ['messages', 'calls', 'created', 'notes', 'unchanged'];

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
        $steps = [];
        foreach ($tree['steps'] as $i => $step) {
            $made = $this->step($step, $this->path.'/steps/'.$i);
            if ($made !== null) {
                $steps[] = $made;
            }
        }

        return new Sample($tree['key'], $tree['title'], $tree['proves'], $tree['rules'] ?? [], $this->moment($tree['clock'] ?? Sample::FIRST_CLOCK, $this->path.'/clock'), (array) ($tree['given'] ?? []), $steps);
    }

    /** @param  array<string, mixed>  $step */
    private function step(array $step, string $path): ?Step
    {
        foreach (self::NOT_YET as $key) {
            if (isset($step[$key])) {
                $this->error($path.'/'.$key, sprintf('The step "%s" is not supported yet.', $key));

                return null;
            }
        }
        $kinds = array_values(array_intersect(['create', 'change', 'clock'], array_keys($step)));
        if (count($kinds) !== 1) {
            $this->error($path, 'A step is one of create, change, clock.');

            return null;
        }
        $kind = StepKind::from($kinds[0]);
        $foreign = match ($kind) {
            StepKind::Create => [],
            StepKind::Change => ['as', 'repeat'],
            StepKind::Clock => ['as', 'repeat', 'by', 'with', 'expect'],
        };
        foreach ($foreign as $key) {
            if (isset($step[$key])) {
                $this->error($path.'/'.$key, sprintf('"%s" means nothing for the step "%s".', $key, $kind->value));
            }
        }
        $target = $kind === StepKind::Clock ? $this->moment($step['clock'], $path.'/clock') : $step[$kind->value];

        return new Step($kind, $target, $step['as'] ?? null, $step['by'] ?? null, (array) ($step['with'] ?? []), $step['repeat'] ?? 1, $this->expectation($step['expect'] ?? [], $path.'/expect'));
    }

    /** @param  array<string, mixed>  $tree */
    private function expectation(array $tree, string $path): Expectation
    {
        foreach (self::EXPECT_NOT_YET as $key) {
            if (isset($tree[$key])) {
                $this->error($path.'/'.$key, sprintf('Expecting "%s" is not supported yet.', $key));
            }
        }
        $records = array_diff_key($tree, array_flip(['acted', 'still', 'problems', 'refused', ...self::EXPECT_NOT_YET]));

        return new Expectation(array_map(fn (mixed $fields): array => (array) $fields, $records), $tree['acted'] ?? [], $tree['still'] ?? [], $tree['problems'] ?? [], $tree['refused'] ?? null);
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
