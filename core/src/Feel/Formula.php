<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel;

/** A formula, parsed once. */
final class Formula
{
    /** @var (\Closure(Scope, Warnings): mixed)|null found when first needed; not kept in caches */
    private ?\Closure $compiled = null;

    private function __construct(public readonly string $source, public readonly Node $tree)
    {
    }

    /** @throws FeelError */
    public static function parse(string $source): self
    {
        return new self($source, Parser::expression($source));
    }

    /** Never throws: what fails is null with a warning. */
    public function value(Scope $scope, Warnings $warnings): mixed
    {
        try {
            $compiled = $this->compiled ??= CompiledFormulas::formula($this->source);

            return $compiled === null ? (new Evaluator($warnings))->value($this->tree, $scope) : $compiled($scope, $warnings);
        } catch (EvaluationStopped $stopped) {
            return $warnings->add($stopped->getMessage(), $this->tree->from, $this->tree->to);
        }
    }

    /** @return list<string> */
    public function __sleep(): array
    {
        return ['source', 'tree'];
    }
}
