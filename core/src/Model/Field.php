<?php

declare(strict_types=1);

namespace Sorvel\Core\Model;

use Brick\Math\BigDecimal;
use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Tally\Tally;

final class Field
{
    public readonly Kind\FieldKind $kind;

    /** Whether a formula sees the value as it is stored. */
    public readonly bool $isPlain;

    /**
     * @param  array<string, Option>  $options  by key, in order, lowest first
     * @param  string|null  $to  the type that a reference points to
     * @param  Formula|null  $formula  of a derived field
     * @param  Tally|null  $tally  of a tally field
     * @param  FieldType|null  $computed  what a computed field behaves as
     * @param  string  $of  key of the type that has it
     * @param  bool  $builtIn  every ticket has it; it is not declared
     * @param  bool  $fixed  set by the desk itself, never by a person or a rule
     * @param  Seen  $requester  what a requester sees of it
     * @param  string|null  $question  what a requester is asked; null when the form leaves it out
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
        public readonly ?Formula $formula = null,
        public readonly ?FieldType $computed = null,
        public readonly ?Tally $tally = null,
        public readonly Seen $requester = Seen::Shown,
        public readonly ?string $question = null,
    ) {
        $this->kind = $this->behavesAs()->kind();
        $this->isPlain = $this->behavesAs()->isPlain();
    }

    /** The type whose values it has: its own, or for a computed field that of what is computed. */
    public function behavesAs(): FieldType
    {
        return $this->computed ?? $this->type;
    }

    /** As what a computed field turns out to be. */
    public function computedAs(FieldType $type, ?self $like, ?string $to): self
    {
        return new self($this->key, $this->label, $this->type, $like->options ?? [], $to, active: $this->active, fixed: true, of: $this->of, formula: $this->formula, computed: $type, requester: $this->requester);
    }

    public function isComputed(): bool
    {
        return $this->type === FieldType::Derived || $this->type === FieldType::Tally;
    }

    /** @return array{int|BigDecimal|null, int|BigDecimal|null} least and most; a percent runs from 0 to 100 unless it says otherwise */
    public function bounds(): array
    {
        $percent = $this->type === FieldType::Percent;

        return [$this->min ?? ($percent ? 0 : null), $this->max ?? ($percent ? 100 : null)];
    }
}
