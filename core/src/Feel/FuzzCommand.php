<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel;

/** `fuzz feel [--seconds N]`: exit 0 when nothing was found, 1 with each defect on a line. */
final class FuzzCommand
{
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
        if (($arguments[0] ?? '') !== 'feel' || (count($arguments) !== 1 && (count($arguments) !== 3 || $arguments[1] !== '--seconds' || ! ctype_digit($arguments[2])))) {
            fwrite($this->err, "Usage: bin/sorvel fuzz feel [--seconds N]\n");

            return 2;
        }
        $corpus = Fuzz::corpus(dirname(__DIR__, 2).'/tests/Feel/fixtures');
        $seed = random_int(1, 1_000_000_000);
        $fuzz = new Fuzz($corpus, $seed);
        $scope = Fuzz::scope();
        $end = microtime(true) + (int) ($arguments[2] ?? 10);
        $defects = 0;
        $slowest = 0.0;
        for ($count = 0; microtime(true) < $end; $count++) {
            $formula = $fuzz->next();
            $start = microtime(true);
            $defect = Fuzz::defect($formula, $scope);
            $slowest = max($slowest, microtime(true) - $start);
            if ($defect !== null) {
                $defects++;
                fwrite($this->out, json_encode(['formula' => $formula, 'defect' => $defect], JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES | JSON_INVALID_UTF8_SUBSTITUTE)."\n");
            }
        }
        fwrite($this->out, sprintf("%d formulas, %d defects, slowest %.0f ms, memory at most %.0f MB, seed %d\n", $count, $defects, $slowest * 1000, memory_get_peak_usage(true) / 1e6, $seed));

        return $defects === 0 ? 0 : 1;
    }
}
