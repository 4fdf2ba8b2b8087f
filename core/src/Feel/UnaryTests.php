<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel;

use Sorvel\Core\Feel\Node\AnyValue;
use Sorvel\Core\Feel\Node\Literal;

/** The tests of a check cell, parsed once; one of them must hold. */
final class UnaryTests
{
    /** @var (\Closure(Scope, Warnings, mixed): (bool|null))|null found when first needed; not kept in caches */
    private ?\Closure $compiled = null;

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

    /** @return list<string>|null the texts of which one must stand there, when it is nothing but a set of them */
    public function texts(): ?array
    {
        $texts = [];
        foreach ($this->tests as $test) {
            if (! $test instanceof Literal || ! is_string($test->value)) {
                return null;
            }
            $texts[] = $test->value;
        }

        return $texts;
    }

    /** Null when it cannot be known. Never throws. */
    public function hold(mixed $value, Scope $scope, Warnings $warnings): ?bool
    {
        try {
            $compiled = $this->compiled ??= CompiledFormulas::tests($this->source);

            return $compiled === null ? (new Evaluator($warnings))->anyTest($this->tests, $value, $scope) : $compiled($scope, $warnings, $value);
        } catch (EvaluationStopped $stopped) {
            return $warnings->add($stopped->getMessage(), 0, strlen($this->source));
        }
    }

    /** @return list<string> */
    public function __sleep(): array
    {
        return ['source', 'tests'];
    }
}
