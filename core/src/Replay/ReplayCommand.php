<?php

declare(strict_types=1);

namespace Sorvel\Core\Replay;

use Sorvel\Core\Format\InputError;
use Sorvel\Core\Format\InvalidInput;
use Sorvel\Core\Format\RulebookReader;
use Sorvel\Core\Format\SampleBuilder;
use Sorvel\Core\Format\SamplesReader;

/**
 * `replay RULEBOOK SAMPLES… [--json] [--only KEY]`: exit 0 all agree, 1 some differ, 2 unusable input.
 */
final class ReplayCommand
{
    private const USAGE = 'Usage: bin/sorvel replay RULEBOOK SAMPLES… [--json] [--only KEY]';

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
        $files = [];
        $json = false;
        $only = null;
        while (($argument = array_shift($arguments)) !== null) {
            if ($argument === '--json') {
                $json = true;
            } elseif ($argument === '--only') {
                $only = array_shift($arguments);
                if ($only === null) {
                    return $this->unusable('--only needs the key of a sample. '.self::USAGE);
                }
            } elseif ($argument === '--junit') {
                return $this->unusable('--junit is not supported yet.');
            } elseif (str_starts_with($argument, '-')) {
                return $this->unusable(sprintf('The option %s is not known. %s', $argument, self::USAGE));
            } else {
                $files[] = $argument;
            }
        }
        if (count($files) < 2) {
            return $this->unusable(self::USAGE);
        }
        try {
            return $this->replay(array_shift($files), $files, $json, $only);
        } catch (InvalidInput $invalid) {
            return $this->unusable(implode("\n", array_map(strval(...), $invalid->errors)));
        }
    }

    /** @param  list<string>  $files */
    private function replay(string $rulebookFile, array $files, bool $json, ?string $only): int
    {
        $rulebook = RulebookReader::read($this->text($rulebookFile), $rulebookFile);
        $samples = [];
        $lost = [];
        foreach ($files as $file) {
            $text = $this->text($file);
            foreach (SamplesReader::read($text, $file) as $i => $sample) {
                if (isset($samples[$sample->key])) {
                    throw new InvalidInput([new InputError('/samples/'.$i.'/key', sprintf('There is already a sample "%s" in another file.', $sample->key), $file)]);
                }
                $samples[$sample->key] = $sample;
                if (SampleBuilder::strangers($sample, $rulebook, '/samples/'.$i) !== []) {
                    $lost[$file] = $text;
                }
            }
        }
        if ($only !== null) {
            if (! isset($samples[$only])) {
                return $this->unusable(sprintf('There is no sample "%s" in these files.', $only));
            }
            $samples = [$only => $samples[$only]];
        }
        $report = Report::of($rulebook, array_values($samples));
        $json ? $this->say(json_encode($report->toArray(), JSON_PRETTY_PRINT | JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES | JSON_THROW_ON_ERROR)) : $this->print($report);
        foreach ($lost as $file => $text) {
            try {
                SamplesReader::read($text, $file, $rulebook);
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
            foreach ($result->broken as $why) {
                $this->say('    '.$why);
            }
            foreach ($result->steps as $number => $step) {
                foreach ($step->differences as $d) {
                    $this->say(sprintf('    step %d, %s: expected %s, came out %s', $number + 1, trim($d->record.' '.$d->field), self::shown($d->expected), self::shown($d->actual)));
                }
            }
        }
        $this->say(sprintf('%d agree, %d differ, %d broken', $report->count(Verdict::Agrees), $report->count(Verdict::Differs), $report->count(Verdict::Broken)));
    }

    private static function shown(mixed $value): string
    {
        return $value === null ? 'nothing' : (string) json_encode($value, JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES);
    }

    /** @throws InvalidInput */
    private function text(string $file): string
    {
        $text = is_file($file) ? @file_get_contents($file) : false;

        return $text === false ? throw new InvalidInput([new InputError('', 'This file cannot be read.', $file)]) : $text;
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
