<?php

declare(strict_types=1);

namespace Sorvel\Core\Replay;

use Sorvel\Core\Format\Arguments;
use Sorvel\Core\Format\Files;
use Sorvel\Core\Format\InvalidInput;
use Sorvel\Core\Format\RulebookReader;

/**
 * `cover RULEBOOK SAMPLES… [--json]`: what the samples touch of a rulebook. Exit 0 when nothing is left out, 1 when
 * something is, 2 unusable input.
 */
final class CoverCommand
{
    private const USAGE = 'Usage: bin/sorvel cover RULEBOOK SAMPLES… [--json]';

    private const WORDS = ['rules' => 'rules that act', 'rows' => 'rows hit', 'cells' => 'check cells seen both ways', 'table_rows' => 'table rows hit', 'guards' => 'guards that turn something down', 'mirrors' => 'mirrors that move'];

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
            if (count($given->files) < 2) {
                throw new InvalidInput([new \Sorvel\Core\Format\InputError('', self::USAGE)]);
            }
            $rulebook = RulebookReader::read(Files::text($given->files[0]), $given->files[0]);
            $samples = array_map(fn (array $s): Sample => $s[0], array_values(Files::samples(array_slice($given->files, 1))));
        } catch (InvalidInput $invalid) {
            fwrite($this->err, $invalid->getMessage()."\n");

            return 2;
        }
        $coverage = Report::of($rulebook, $samples)->coverage;
        $missing = $coverage->missing($rulebook);
        if ($given->has('json')) {
            fwrite($this->out, json_encode([...$coverage->toArray($rulebook), 'missing' => $missing], JSON_PRETTY_PRINT | JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES | JSON_THROW_ON_ERROR)."\n");
        } else {
            foreach ($coverage->figures($rulebook) as $what => $figure) {
                fwrite($this->out, sprintf("%5d of %5d  %s\n", $figure['covered'], $figure['total'], self::WORDS[$what]));
            }
            foreach ($missing as $place) {
                fwrite($this->out, '    '.$place['says']."\n");
            }
        }

        return $missing === [] ? 0 : 1;
    }
}
