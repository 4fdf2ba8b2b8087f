<?php

declare(strict_types=1);

namespace Sorvel\Core\Tests\Replay;

use PHPUnit\Framework\TestCase;

/** `bin/sorvel replay` as people run it. */
final class ReplayCommandTest extends TestCase
{
    private const ROOT = __DIR__.'/../../..';

    public function test_the_demo_desk_differs_in_two_samples_on_purpose(): void
    {
        [$code, $out] = $this->replay('demo/rulebook.yaml', ...$this->demoSamples());

        self::assertSame(1, $code);
        self::assertStringContainsString('≠ bow_door_three_hours', $out);
        self::assertStringContainsString('expected "sailing_at_risk", came out "urgent"', $out);
        self::assertMatchesRegularExpression('~\d+ agree, 2 differ, 0 broken~', $out);
    }

    public function test_json_has_verdicts_coverage_and_totals(): void
    {
        [$code, $out] = $this->replay('demo/rulebook.yaml', 'demo/samples/faults.yaml', '--json', '--only', 'bow_door_three_hours');
        $report = json_decode($out, true, 64, JSON_THROW_ON_ERROR);

        self::assertSame(1, $code);
        self::assertSame(['edition', 'samples', 'coverage', 'totals'], array_keys($report));
        self::assertSame(['agrees' => 0, 'differs' => 1, 'broken' => 0], $report['totals']);
        self::assertSame([['record' => 'F1', 'field' => 'priority', 'expected' => 'sailing_at_risk', 'actual' => 'urgent']], $report['samples'][0]['steps'][0]['differences']);
        self::assertContains('rank_fault', $report['samples'][0]['steps'][0]['acted']);
        self::assertContains(1, array_column(array_column($report['coverage']['rules'], 'rows', 'key')['rank_fault'], 'hit'));
    }

    public function test_all_that_agree_exit_with_nothing(): void
    {
        [$code] = $this->replay('demo/rulebook.yaml', 'demo/samples/refit.yaml');
        self::assertSame(0, $code);
    }

    public function test_unusable_input_exits_with_two_and_says_where(): void
    {
        foreach ([
            [['demo/none.yaml', 'demo/samples/refit.yaml'], 'demo/none.yaml: This file cannot be read'],
            [['demo/samples/refit.yaml', 'demo/samples/refit.yaml'], 'demo/samples/refit.yaml:1: /sorvel_samples: The key "sorvel_samples" is not known'],
            [['demo/rulebook.yaml'], 'Usage'],
            [['demo/rulebook.yaml', 'demo/samples/refit.yaml', '--only', 'nothing'], 'no sample "nothing"'],
            [['demo/rulebook.yaml', 'demo/samples/refit.yaml', '--loud'], 'option --loud is not known'],
            [['demo/rulebook.yaml', 'demo/samples/refit.yaml', '--junit', '/no/such/folder/x.xml'], '/no/such/folder/x.xml cannot be written'],
            [['demo/rulebook.yaml', 'demo/samples/refit.yaml', '--only'], '--only needs a value'],
        ] as [$arguments, $says]) {
            [$code, , $error] = $this->replay(...$arguments);
            self::assertSame(2, $code, $says);
            self::assertStringContainsString($says, $error);
        }
    }

    public function test_a_sample_that_names_nothing_is_broken_with_its_line(): void
    {
        $file = tempnam(sys_get_temp_dir(), 'sorvel').'.yaml';
        file_put_contents($file, "sorvel_samples: 1\ndesk: tolvane\nsamples:\n  - key: a\n    title: A\n    proves: act\n    steps:\n      - create: fault\n        as: F1\n        with: {title: x, vessle: V1}\n");
        [$code, $out, $error] = $this->replay('demo/rulebook.yaml', $file);
        unlink($file);

        self::assertSame(2, $code);
        self::assertStringContainsString('✕ a', $out);
        self::assertStringContainsString($file.':10: /samples/0/steps/0/with/vessle: There is no field of Fault "vessle"; did you mean "vessel"?', $error);
    }

    /** @return list<string> */
    private function demoSamples(): array
    {
        return array_map(fn (string $f): string => 'demo/samples/'.basename($f), glob(self::ROOT.'/demo/samples/*.yaml') ?: []);
    }

    /** @return array{int, string, string} */
    private function replay(string ...$arguments): array
    {
        $process = proc_open(['bin/sorvel', 'replay', ...array_values($arguments)], [1 => ['pipe', 'w'], 2 => ['pipe', 'w']], $pipes, self::ROOT);
        self::assertIsResource($process);
        $out = (string) stream_get_contents($pipes[1]);
        $error = (string) stream_get_contents($pipes[2]);

        return [proc_close($process), $out, $error];
    }
}
