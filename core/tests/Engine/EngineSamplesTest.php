<?php

declare(strict_types=1);

namespace Sorvel\Core\Tests\Engine;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Sorvel\Core\Engine\TraceLevel;
use Sorvel\Core\Format\RulebookBuilder;
use Sorvel\Core\Format\RulebookReader;
use Sorvel\Core\Format\SamplesReader;
use Sorvel\Core\Model\Rulebook;
use Sorvel\Core\Replay\Sample;
use Sorvel\Core\Replay\SampleRunner;
use Sorvel\Core\Replay\StepResult;
use Sorvel\Core\Replay\Verdict;
use Symfony\Component\Yaml\Yaml;

/** Every start, look-up and change of the format, each in a rule of fixtures/rulebook.yaml with stories in fixtures/samples.yaml. */
final class EngineSamplesTest extends TestCase
{
    private const BOOK = __DIR__.'/fixtures/rulebook.yaml';

    /** @return iterable<string, array{string}> */
    public static function keys(): iterable
    {
        foreach (self::samples() as $sample) {
            yield $sample->key => [$sample->key];
        }
    }

    #[DataProvider('keys')]
    public function test_it_comes_out_as_told(string $key): void
    {
        $result = (new SampleRunner(self::book()))->run(self::sample($key));
        self::assertSame([], $result->broken);
        foreach ($result->steps as $i => $step) {
            self::assertSame([], array_map(fn (object $d): array => get_object_vars($d), $step->differences), 'step '.($i + 1));
        }
        self::assertSame(Verdict::Agrees, $result->verdict);
    }

    public function test_every_rule_is_missed_by_some_story_when_it_is_off(): void
    {
        $tree = Yaml::parseFile(self::BOOK);
        self::assertIsArray($tree);
        foreach ($tree['rules'] as $i => $rule) {
            $without = $tree;
            $without['rules'][$i]['enabled'] = false;
            $runner = new SampleRunner(RulebookBuilder::build($without));
            $noticed = false;
            foreach (self::samples() as $sample) {
                $noticed = $noticed || $runner->run($sample)->verdict !== Verdict::Agrees;
            }
            self::assertTrue($noticed, $rule['key'].' could be switched off and no story would tell');
        }
    }

    public function test_two_replays_give_the_same_bytes(): void
    {
        foreach (self::samples() as $sample) {
            $told = fn (): string => json_encode(array_map(fn (StepResult $s): array => [$s->values, $s->done, array_map(fn ($o): array => $o->trace, $s->outcomes)], (new SampleRunner(self::book()))->run($sample, TraceLevel::Full)->steps), JSON_THROW_ON_ERROR);
            self::assertSame($told(), $told(), $sample->key);
        }
    }

    public function test_a_rule_that_cannot_be_due_is_not_looked_at(): void
    {
        $result = (new SampleRunner(self::book()))->run(self::sample('lists'), TraceLevel::Full);
        $due = array_column($result->steps[0]->outcome->trace['passes'][0]['rules'] ?? [], 'rule');
        self::assertSame(['lists'], $due);
    }

    public function test_what_waited_is_told_with_its_cells_and_records(): void
    {
        $result = (new SampleRunner(self::book()))->run(self::sample('lists_of_records'), TraceLevel::Full);
        $action = $result->steps[0]->outcome->trace['actions'][0] ?? [];
        self::assertSame(['lay_up', 'set', 'state', 'open_ones', ['J-1', 'J-2'], 2], [$action['rule'], $action['kind'], $action['field'], $action['of'], $action['records'], $action['count']]);
        $lookUp = $result->steps[0]->outcome->trace['passes'][0]['rules'][0]['look_ups'][0] ?? [];
        self::assertSame(['open_ones', 'all', 2, ['J-1', 'J-2']], [$lookUp['name'], $lookUp['kind'], $lookUp['found'], $lookUp['records']]);
        self::assertStringContainsString('job where ship = record.id', $lookUp['formula']);
    }

    private static function book(): Rulebook
    {
        return RulebookReader::read((string) file_get_contents(self::BOOK), 'rulebook.yaml');
    }

    /** @return list<Sample> */
    private static function samples(): array
    {
        return SamplesReader::read((string) file_get_contents(__DIR__.'/fixtures/samples.yaml'), 'samples.yaml');
    }

    private static function sample(string $key): Sample
    {
        return array_values(array_filter(self::samples(), fn (Sample $s): bool => $s->key === $key))[0];
    }
}
