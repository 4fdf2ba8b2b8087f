<?php

declare(strict_types=1);

namespace Sorvel\Core\Replay;

use Sorvel\Core\Engine\CompiledRules;
use Sorvel\Core\Format\Arguments;
use Sorvel\Core\Format\Files;
use Sorvel\Core\Format\InvalidInput;
use Sorvel\Core\Format\RulebookReader;
use Sorvel\Core\Format\SampleBuilder;
use Sorvel\Core\Format\SamplesReader;

/**
 * `replay RULEBOOK SAMPLES… [--json] [--junit FILE] [--only KEY]`: exit 0 all agree, 1 some differ, 2 unusable input.
 */
final class ReplayCommand
{
    private const USAGE = 'Usage: bin/sorvel replay RULEBOOK SAMPLES… [--json] [--junit FILE] [--only KEY]';

    /**
     * @param  resource  $out
     * @param  resource  $err
     */
    public function __construct(private $out, private $err)
    {
    }

    /** @param  list<string>  $arguments */
    public function run(array $arguments): int
    {
        try {
            $given = Arguments::of($arguments, ['json' => false, 'junit' => true, 'only' => true], self::USAGE);
            if (count($given->files) < 2) {
                return $this->unusable(self::USAGE);
            }

            return $this->replay($given->files[0], array_slice($given->files, 1), $given);
        } catch (InvalidInput $invalid) {
            return $this->unusable(implode("\n", array_map(strval(...), $invalid->errors)));
        }
    }

    /** @param  list<string>  $files */
    private function replay(string $rulebookFile, array $files, Arguments $given): int
    {
        $rulebook = RulebookReader::read(Files::text($rulebookFile), $rulebookFile);
        $samples = [];
        $lost = [];
        $fileOf = [];
        foreach (Files::samples($files) as $key => [$sample, $file, $place]) {
            $samples[$key] = $sample;
            $fileOf[$key] = $file;
            if (SampleBuilder::strangers($sample, $rulebook, '/samples/'.$place) !== []) {
                $lost[$file] = true;
            }
        }
        $only = $given->value('only');
        if ($only !== null) {
            if (! isset($samples[$only])) {
                return $this->unusable(sprintf('There is no sample "%s" in these files.', $only));
            }
            $samples = [$only => $samples[$only]];
        }
        $begun = hrtime(true);
        CompiledRules::make($rulebook);
        $report = Report::of($rulebook, array_values($samples));
        $junit = $given->value('junit');
        if ($junit !== null && @file_put_contents($junit, JUnit::of($report, $samples, $fileOf, (hrtime(true) - $begun) / 1e9)) === false) {
            return $this->unusable(sprintf('%s cannot be written.', $junit));
        }
        $given->has('json') ? $this->say(json_encode($report->toArray(), JSON_PRETTY_PRINT | JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES | JSON_THROW_ON_ERROR)) : $this->print($report);
        foreach (array_keys($lost) as $file) {
            try {
                SamplesReader::read(Files::text($file), $file, $rulebook);
            } catch (InvalidInput $invalid) {
                fwrite($this->err, $invalid->getMessage()."\n");
            }
        }

        return match (true) {
            $report->count(Verdict::Broken) > 0 => 2,
            $report->count(Verdict::Differs) > 0 => 1,
            default => 0,
        };
    }

    private function print(Report $report): void
    {
        foreach ($report->results as $result) {
            $this->say(['agrees' => '✓', 'differs' => '≠', 'broken' => '✕'][$result->verdict->value].' '.$result->key);
            foreach ($result->told() as $line) {
                $this->say('    '.$line);
            }
        }
        $this->say(sprintf('%d agree, %d differ, %d broken', $report->count(Verdict::Agrees), $report->count(Verdict::Differs), $report->count(Verdict::Broken)));
    }

    private function say(string $line): void
    {
        fwrite($this->out, $line."\n");
    }

    private function unusable(string $message): int
    {
        fwrite($this->err, $message."\n");

        return 2;
    }
}
