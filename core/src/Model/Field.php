<?php

declare(strict_types=1);

namespace Sorvel\Core\Model;

use Brick\Math\BigDecimal;
use Sorvel\Core\Feel\Formula;

final class Field
{
    public readonly Kind\FieldKind $kind;

    /** Whether a formula sees the value as it is stored. */
    public readonly bool $isPlain;

    /**
     * @param  array<string, Option>  $options  by key, in order, lowest first
     * @param  string|null  $to  the type that a reference points to
     * @param  string  $of  key of the type that has it
     * @param  bool  $builtIn  every ticket has it; it is not declared
     * @param  bool  $fixed  set by the desk itself, never by a person or a rule
     */
    public function __construct(
        public readonly string $key,
        public readonly string $label,
        public readonly FieldType $type,
        public readonly array $options = [],
        public readonly ?string $to = null,
        public readonly bool $required = false,
        public readonly ?Formula $default = null,
        public readonly int|BigDecimal|null $min = null,
        public readonly int|BigDecimal|null $max = null,
        public readonly ?int $decimals = null,
        public readonly ?string $pattern = null,
        public readonly bool $active = true,
        public readonly bool $builtIn = false,
        public readonly bool $fixed = false,
        public readonly string $of = '',
    ) {
        $this->kind = $type->kind() ?? throw new \LogicException($type->value.' has no kind yet.');
        $this->isPlain = $type->isPlain();
    }

    /** @return array{int|BigDecimal|null, int|BigDecimal|null} least and most; a percent runs from 0 to 100 unless it says otherwise */
    public function bounds(): array
    {
        $percent = $this->type === FieldType::Percent;

        return [$this->min ?? ($percent ? 0 : null), $this->max ?? ($percent ? 100 : null)];
    }
}
