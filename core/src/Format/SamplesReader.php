<?php

declare(strict_types=1);

namespace Sorvel\Core\Format;

use Sorvel\Core\Model\Rulebook;
use Sorvel\Core\Replay\Sample;

/** A samples file to samples; every error carries file, line and path. */
final class SamplesReader
{
    /**
     * @return list<Sample>
     *
     * @throws InvalidInput
     */
    public static function read(string $text, string $file, ?Rulebook $rulebook = null): array
    {
        $source = Source::read($text, $file);
        $errors = SchemaCheck::errors('samples', $source->tree);
        $samples = [];
        $keys = [];
        foreach ($errors === [] ? $source->tree['samples'] : [] as $i => $tree) {
            $path = '/samples/'.$i;
            try {
                $sample = SampleBuilder::build($tree, $path);
            } catch (InvalidInput $invalid) {
                array_push($errors, ...$invalid->errors);

                continue;
            }
            if (isset($keys[$sample->key])) {
                $errors[] = new InputError($path.'/key', sprintf('There is already a sample "%s".', $sample->key));
            }
            $keys[$sample->key] = true;
            array_push($errors, ...($rulebook === null ? [] : SampleBuilder::strangers($sample, $rulebook, $path)));
            $samples[] = $sample;
        }
        if ($rulebook !== null && $errors === [] && $source->tree['desk'] !== $rulebook->desk) {
            $errors[] = new InputError('/desk', sprintf('These samples belong to the desk "%s", the rulebook to "%s".', $source->tree['desk'], $rulebook->desk));
        }
        if ($errors !== []) {
            throw $source->located(new InvalidInput($errors));
        }

        return $samples;
    }

    /**
     * The trees of a file's samples, checked.
     *
     * @return list<array<string, mixed>>
     *
     * @throws InvalidInput
     */
    public static function trees(string $text, string $file): array
    {
        self::read($text, $file);

        return array_values(Source::read($text, $file)->tree['samples']);
    }
}
