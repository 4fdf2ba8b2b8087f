<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel;

use Brick\Math\BigDecimal;
use Sorvel\Core\Feel\Temporal\DateTime;

/** What went wrong while evaluating: the value is null, the reason stands here. Also holds the bound on steps. */
final class Warnings
{
    public const MAX_STEPS = 500_000;

    private const MAX_KEPT = 20;

    /** @var list<array{message: string, from: int, to: int}> public for compiled rules, which read it */
    public array $list = [];

    private int $steps = 0;

    /** What now() and today() say. */
    public ?DateTime $now = null;

    /** Warnings are made for each formula that runs, so they have no constructor. */
    public static function at(?DateTime $now): self
    {
        $warnings = new self;
        $warnings->now = $now;

        return $warnings;
    }

    public function add(string $message, int $from = 0, int $to = 0): null
    {
        if (count($this->list) < self::MAX_KEPT) {
            $this->list[] = ['message' => $message, 'from' => $from, 'to' => $to];
        }

        return null;
    }

    /** @throws EvaluationStopped past the bound */
    public function step(int $count = 1): void
    {
        $this->steps += $count;
        if ($this->steps > self::MAX_STEPS) {
            throw new EvaluationStopped(sprintf('The formula took more than %d steps and was stopped.', self::MAX_STEPS));
        }
    }

    /**
     * What a value takes in memory counts as steps too, so that the bound on steps bounds memory.
     *
     * @throws EvaluationStopped past the bound
     */
    public function stepFor(mixed $value): void
    {
        if (is_string($value)) {
            $this->steps += strlen($value) >> 7;
        } elseif (is_array($value)) {
            $this->step(count($value));
        } elseif ($value instanceof BigDecimal) {
            $this->step(strlen((string) $value) >> 5);
        }
    }

    private int $depth = 0;

    /** A function of one's own is called. @throws EvaluationStopped past the bound */
    public function enter(): void
    {
        if (++$this->depth > 200) {
            throw new EvaluationStopped('Functions call each other more than 200 deep.');
        }
    }

    public function leave(): void
    {
        $this->depth--;
    }

    public function count(): int
    {
        return count($this->list);
    }

    /** @return list<array{message: string, from: int, to: int}> */
    public function all(): array
    {
        return $this->list;
    }
}
