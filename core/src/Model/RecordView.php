<?php

declare(strict_types=1);

namespace Sorvel\Core\Model;

use Sorvel\Core\Feel\Context;

/** A record as a formula sees it: references and people are followed when read, and each read is noted. */
final class RecordView implements Context
{
    /** @var array<string, Field> */
    private readonly array $fields;

    /** @var array<string, mixed> by field, what is not seen as it is stored */
    private array $seen = [];

    /** @param  string  $path how the formula came here: '' for the record itself, 'vessel.' for a referred one */
    public function __construct(private readonly Record $record, private readonly Viewer $viewer, private readonly string $path = '')
    {
        $this->fields = $viewer->rulebook->types[$record->type]->fields;
    }

    public function has(string $name): bool
    {
        return isset($this->fields[$name]) || $name === 'id';
    }

    public function get(string $name): mixed
    {
        $field = $this->fields[$name] ?? null;
        if ($field === null) {
            return $name === 'id' ? $this->record->id : null;
        }
        $stored = $this->record->values[$name] ?? null;
        $this->viewer->reads->note($this->path === '' ? $name : $this->path.$name, $stored);

        return $stored === null || $field->isPlain ? $stored : $this->seen[$name] ??= $field->kind->seen($stored, $field, $this->viewer, $this->path.$name.'.');
    }

    public function names(): array
    {
        return ['id', ...array_keys($this->fields)];
    }

    public function identity(): string
    {
        return $this->record->id;
    }

    public function typeKey(): string
    {
        return $this->record->type;
    }
}
