<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel;

use Random\Engine\Mt19937;
use Random\Randomizer;
use Sorvel\Core\Feel\Temporal\DateTime;

/**
 * Throws mutated formulas at the language. Each must give a value, or an error with a position; anything else is a
 * defect.
 */
final class Fuzz
{
    private const PIECES = ['+', '-', '*', '/', '**', '(', ')', '[', ']', '{', '}', ',', ':', '.', '..', '=', '!=', '<', '>=', ' and ', ' or ', ' in ', ' between ', ' instance of ', 'if ', ' then ', ' else ', 'for x in ', ' return ', 'some x in ', ' satisfies ', 'function(a) ', 'null', 'true', '-1', '0', '1e6144', '1e-6144', '0.1', '9223372036854775807', '"a"', '""', '"\u00e9"', '@"2027-03-04"', '@"PT1H"', '@"P1Y"', '@"09:00:00@Europe/Paris"', '?', 'not(', 'date(', 'sort(', 'replace(', 'context put(', 'range(', '999999999', '[1..3]', 'n', 'list', 'people', 'partial', 'é', "\xff", '/*', '//', '"'];

    private Randomizer $random;

    /** @param  non-empty-list<string>  $corpus formulas to begin with */
    public function __construct(private readonly array $corpus, int $seed)
    {
        $this->random = new Randomizer(new Mt19937($seed));
    }

    public function next(): string
    {
        $text = $this->pick($this->corpus);
        for ($i = $this->random->getInt(1, 5); $i > 0; $i--) {
            $at = $this->random->getInt(0, strlen($text));
            $length = $this->random->getInt(0, min(8, strlen($text) - $at));
            $text = match ($this->random->getInt(0, 4)) {
                0 => substr_replace($text, '', $at, $length),
                1 => substr_replace($text, $this->pick(self::PIECES), $at, 0),
                2 => substr_replace($text, $this->pick(self::PIECES), $at, $length),
                3 => substr_replace($text, $this->pick($this->corpus), $at, $length),
                default => substr_replace($text, substr($text, $at, $length), $this->random->getInt(0, strlen($text)), 0),
            };
        }

        return substr($text, 0, 2000);
    }

    /** @return string|null the defect, or null */
    public static function defect(string $formula, Scope $scope): ?string
    {
        $level = error_reporting(E_ALL);
        set_error_handler(static function (int $level, string $message): bool {
            if ((error_reporting() & $level) !== 0) {
                throw new \ErrorException($message);
            }

            return true;
        });
        try {
            foreach ([false, true] as $unary) {
                try {
                    $warnings = Warnings::at(DateTime::parse('2027-03-04T09:00:00Z'));
                    $value = $unary ? UnaryTests::parse($formula)->hold(5, $scope, $warnings) : Formula::parse($formula)->value($scope, $warnings);
                    Json::encode($value);
                } catch (FeelError $error) {
                    if ($error->from < 0 || $error->to < $error->from || $error->to > strlen($formula)) {
                        return sprintf('error outside of the text: %d to %d', $error->from, $error->to);
                    }
                }
            }
        } catch (\Throwable $failure) {
            return $failure::class.': '.$failure->getMessage().' in '.basename($failure->getFile()).':'.$failure->getLine();
        } finally {
            restore_error_handler();
            error_reporting($level);
        }

        return null;
    }

    /** @return non-empty-list<string> formulas of fixtures: what stands before " => " */
    public static function corpus(string $folder): array
    {
        $corpus = [];
        foreach (glob($folder.'/*.txt') ?: [] as $file) {
            foreach (file($file, FILE_IGNORE_NEW_LINES) ?: [] as $line) {
                if ($line !== '' && $line[0] !== '#') {
                    $corpus[] = preg_replace('~^\? .*? : ~', '', explode(' => ', $line, 2)[0]) ?? '';
                }
            }
        }

        return $corpus === [] ? ['1 + 1'] : $corpus;
    }

    public static function scope(): Scope
    {
        return new MapScope(['n' => 5, 'd' => Number::of('0.1'), 't' => 'abc', 'nothing' => null, 'yes' => true, 'list' => [1, 2, 3], 'people' => [new PlainContext(['name' => 'Ann', 'age' => 30]), new PlainContext(['name' => 'Bo', 'age' => 20])]]);
    }

    /**
     * @template T
     *
     * @param  non-empty-list<T>  $from
     * @return T
     */
    private function pick(array $from): mixed
    {
        return $from[$this->random->getInt(0, count($from) - 1)];
    }
}
