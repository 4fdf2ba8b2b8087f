<?php

declare(strict_types=1);

namespace Sorvel\Core\Tests\Feel;

use PHPUnit\Framework\TestCase;
use Sorvel\Core\Feel\Fuzz;

final class FuzzTest extends TestCase
{
    public function test_twenty_thousand_mutated_formulas_give_a_value_or_an_error_with_a_position(): void
    {
        $corpus = Fuzz::corpus(__DIR__.'/fixtures');
        self::assertGreaterThan(1000, count($corpus));
        $fuzz = new Fuzz($corpus, 20270304);
        $scope = Fuzz::scope();
        $defects = [];
        memory_reset_peak_usage();
        $before = memory_get_usage();
        for ($i = 0; $i < 20_000; $i++) {
            $formula = $fuzz->next();
            $start = microtime(true);
            $defect = Fuzz::defect($formula, $scope);
            if ($defect !== null || microtime(true) - $start > 5) {
                $defects[] = [$formula, $defect ?? 'took '.(microtime(true) - $start).' s'];
            }
        }
        self::assertSame([], $defects);
        self::assertLessThan(128_000_000, memory_get_peak_usage() - $before);
    }

    public function test_a_defect_would_be_found(): void
    {
        $broken = new class implements \Sorvel\Core\Feel\Scope
        {
            public function has(string $name): bool
            {
                return $name === 'bad';
            }

            public function get(string $name): mixed
            {
                return hex2bin($name);
            }
        };
        self::assertStringContainsString('hex2bin', (string) Fuzz::defect('bad + 1', $broken));
        self::assertNull(Fuzz::defect('1 +', $broken));
    }
}
