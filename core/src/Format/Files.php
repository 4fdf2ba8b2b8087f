<?php

declare(strict_types=1);

namespace Sorvel\Core\Format;

use Sorvel\Core\Replay\Sample;

/** Rulebooks and samples as they lie in files, for the command line. */
final class Files
{
    /** @throws InvalidInput */
    public static function text(string $file): string
    {
        $text = is_file($file) ? @file_get_contents($file) : false;

        return $text === false ? throw new InvalidInput([new InputError('', 'This file cannot be read.', $file)]) : $text;
    }

    /**
     * @param  list<string>  $files
     * @return array<string, array{Sample, string, int}> by key: the sample, its file, its place in it
     *
     * @throws InvalidInput
     */
    public static function samples(array $files): array
    {
        $samples = [];
        foreach ($files as $file) {
            foreach (SamplesReader::read(self::text($file), $file) as $i => $sample) {
                if (isset($samples[$sample->key])) {
                    throw new InvalidInput([new InputError('/samples/'.$i.'/key', sprintf('There is already a sample "%s" in another file.', $sample->key), $file)]);
                }
                $samples[$sample->key] = [$sample, $file, $i];
            }
        }

        return $samples;
    }
}
