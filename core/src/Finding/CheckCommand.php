<?php

declare(strict_types=1);

namespace Sorvel\Core\Finding;

use Sorvel\Core\Format\Arguments;
use Sorvel\Core\Format\Files;
use Sorvel\Core\Format\InputError;
use Sorvel\Core\Format\InvalidInput;
use Sorvel\Core\Format\RulebookReader;
use Sorvel\Core\Replay\Sample;

/**
 * `check RULEBOOK [SAMPLES…] [--json]`: what can be said without running it. Exit 0 nothing but notes, 1 something that
 * blocks or needs attention, 2 unusable input.
 */
final class CheckCommand
{
    private const USAGE = 'Usage: bin/sorvel check RULEBOOK [SAMPLES…] [--json]';

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
            if ($given->files === []) {
                throw new InvalidInput([new InputError('', self::USAGE)]);
            }
            $tree = RulebookReader::tree(Files::text($given->files[0]), $given->files[0]);
            $samples = array_map(fn (array $s): Sample => $s[0], array_values(Files::samples(array_slice($given->files, 1))));
        } catch (InvalidInput $invalid) {
            fwrite($this->err, $invalid->getMessage()."\n");

            return 2;
        }
        $findings = Findings::of($tree, $samples);
        if (count($given->files) === 1) {
            // that a rule has no sample cannot be said without the samples
            $findings = array_values(array_filter($findings, fn (Finding $f): bool => ! in_array($f->check, ['no_sample', 'no_still_sample'], true)));
        }
        $graver = count(array_filter($findings, fn (Finding $f): bool => $f->weight !== Weight::Note));
        if ($given->has('json')) {
            fwrite($this->out, json_encode(['findings' => array_map(fn (Finding $f): array => $f->toArray(), $findings)], JSON_PRETTY_PRINT | JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES | JSON_THROW_ON_ERROR)."\n");
        } else {
            foreach ($findings as $finding) {
                fwrite($this->out, sprintf("%-9s %s/%s%s\n    %s\n    %s\n    %s\n", $finding->weight->value, $finding->kind, $finding->key, $finding->at, $finding->says, $finding->why, $finding->proposal));
            }
            fwrite($this->out, sprintf("%d %s, %d of them more than a note\n", count($findings), count($findings) === 1 ? 'finding' : 'findings', $graver));
        }

        return $graver > 0 ? 1 : 0;
    }
}
