<?php

declare(strict_types=1);

namespace Sorvel\Core\Finding;

use Sorvel\Core\Model\Field;

/** A place in a rulebook that names a field, or one of a field's options. */
final class Mention
{
    /**
     * @param  string  $path  JSON pointer to the scalar it stands in; empty while only the formula is known
     * @param  int|null  $from  byte offsets of the name in the formula that stands there; null when the whole scalar is the name
     * @param  string|null  $option  an option's key, when it is that and not the field's key which stands there
     * @param  bool  $writes  whether the field is changed through it
     */
    public function __construct(
        public readonly Field $field,
        public readonly ?string $option,
        public readonly ?int $from,
        public readonly ?int $to,
        public readonly bool $writes = false,
        public readonly string $path = '',
    ) {
    }

    public function at(string $path): self
    {
        return new self($this->field, $this->option, $this->from, $this->to, $this->writes, $path);
    }
}
