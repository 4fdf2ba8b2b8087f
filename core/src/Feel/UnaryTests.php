<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel;

use Sorvel\Core\Feel\Node\AnyValue;

/** The tests of a check cell, parsed once; one of them must hold. */
final class UnaryTests
{
    /** @param  non-empty-list<Node>  $tests */
    private function __construct(public readonly string $source, public readonly array $tests)
    {
    }

    /** @throws FeelError */
    public static function parse(string $source): self
    {
        return new self($source, Parser::unaryTests($source));
    }

    public function alwaysHolds(): bool
    {
        return $this->tests[0] instanceof AnyValue;
    }

    /** Null when it cannot be known. Never throws. */
    public function hold(mixed $value, Scope $scope, Warnings $warnings): ?bool
    {
        try {
            $compiled = CompiledFormulas::tests($this->source);

            return $compiled === null ? (new Evaluator($warnings))->anyTest($this->tests, $value, $scope) : $compiled($scope, $warnings, $value);
        } catch (EvaluationStopped $stopped) {
            return $warnings->add($stopped->getMessage(), 0, strlen($this->source));
        }
    }
}
