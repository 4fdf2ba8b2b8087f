<?php

declare(strict_types=1);

namespace Sorvel\Core\Format;

use Sorvel\Core\Model\Rulebook;

/** A rulebook file to a Rulebook; every error carries file, line and path. */
final class RulebookReader
{
    /** @throws InvalidInput */
    public static function read(string $text, string $file): Rulebook
    {
        return RulebookBuilder::build(self::tree($text, $file, true));
    }

    /**
     * The file's tree, held against the schema, and with $build also built once to find every other error.
     *
     * @return array<array-key, mixed>
     *
     * @throws InvalidInput
     */
    public static function tree(string $text, string $file, bool $build = true): array
    {
        $source = Source::read($text, $file);
        $errors = SchemaCheck::errors('rulebook', $source->tree);
        try {
            if ($errors !== []) {
                throw new InvalidInput($errors);
            }
            if ($build) {
                RulebookBuilder::build($source->tree);
            }
        } catch (InvalidInput $invalid) {
            throw $source->located($invalid);
        }

        return $source->tree;
    }
}
