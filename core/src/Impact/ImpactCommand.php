<?php

declare(strict_types=1);

namespace Sorvel\Core\Impact;

use Sorvel\Core\Engine\CompiledRules;
use Sorvel\Core\Format\Arguments;
use Sorvel\Core\Format\Files;
use Sorvel\Core\Format\InputError;
use Sorvel\Core\Format\InvalidInput;
use Sorvel\Core\Format\RulebookReader;

/**
 * `impact RULEBOOK EVENTS.jsonl [--json]`: past events, one a line, replayed through a rulebook; the file may be packed
 * with gzip. Exit 0 all come out the same, 1 some come out otherwise, 2 unusable input.
 */
final class ImpactCommand
{
    private const USAGE = 'Usage: bin/sorvel impact RULEBOOK EVENTS.jsonl [--json]';

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
            $given = Arguments::of($arguments, ['json' => false], self::USAGE);
            if (count($given->files) !== 2) {
                throw new InvalidInput([new InputError('', self::USAGE)]);
            }
            $rulebook = RulebookReader::read(Files::text($given->files[0]), $given->files[0]);
            CompiledRules::make($rulebook);
            $impact = new Impact($rulebook);
            $tally = new Tally($rulebook);
            $progress = ! $given->has('json') && stream_isatty($this->err);
            foreach ($this->events($given->files[1]) as $number => $past) {
                $tally->take($past, $impact->of($past), $number);
                if ($progress && $number % 500 === 0) {
                    fwrite($this->err, "\r".number_format($number).' events');
                }
            }
            $progress && fwrite($this->err, "\r");
        } catch (InvalidInput $invalid) {
            fwrite($this->err, $invalid->getMessage()."\n");

            return 2;
        }
        $all = Tally::join([$tally->toArray()]);
        if ($given->has('json')) {
            fwrite($this->out, json_encode($all, JSON_PRETTY_PRINT | JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES | JSON_THROW_ON_ERROR)."\n");
        } else {
            $this->print($all);
        }

        return $all['counts']['otherwise'] > 0 ? 1 : 0;
    }

    /**
     * @return iterable<int, PastEvent> by line
     *
     * @throws InvalidInput
     */
    private function events(string $file): iterable
    {
        $lines = is_file($file) ? @fopen((str_ends_with($file, '.gz') ? 'compress.zlib://' : '').$file, 'r') : false;
        if ($lines === false) {
            throw new InvalidInput([new InputError('', 'This file cannot be read.', $file)]);
        }
        for ($number = 1; ($line = fgets($lines)) !== false; $number++) {
            if (trim($line) === '') {
                continue;
            }
            $plain = json_decode($line, true, 64);
            try {
                yield $number => PastEvent::from(is_array($plain) ? $plain : throw new InvalidInput([new InputError('', 'This line is not a JSON object.')]));
            } catch (InvalidInput $invalid) {
                throw new InvalidInput(array_map(fn (InputError $e): InputError => $e->in($file, $number), $invalid->errors));
            }
        }
        fclose($lines);
    }

    /** @param  array<string, mixed>  $all */
    private function print(array $all): void
    {
        $say = fn (string $line): int|false => fwrite($this->out, $line."\n");
        $say(sprintf('%d events: %d come out the same, %d otherwise, %d cannot be told', $all['counts']['events'], $all['counts']['same'], $all['counts']['otherwise'], $all['counts']['not_known']));
        foreach ($all['fields'] as $field) {
            $say(sprintf('%s.%s: %d', $field['type'], $field['field'], $field['count']));
            foreach (array_slice($field['values'], 0, 5) as $value) {
                $say(sprintf('    %s → %s: %d', json_encode($value['was'], JSON_UNESCAPED_UNICODE), json_encode($value['would'], JSON_UNESCAPED_UNICODE), $value['count']));
            }
        }
        foreach ($all['rules'] as $rule) {
            $say(sprintf('%s: would act %d more, %d fewer times, and set otherwise %d', $rule['rule'], $rule['starts'], $rule['stops'], $rule['fields']));
        }
        foreach ($all['gaps'] as $gap) {
            $say(sprintf('cannot be told for %d: %s', $gap['count'], $gap['why']));
        }
    }
}
