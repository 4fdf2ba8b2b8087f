<?php

declare(strict_types=1);

namespace Sorvel\Core\Model;

use Sorvel\Core\Feel\Context;

/** A record as a formula sees it: references and people are followed when read, and each read is noted. */
final class RecordView implements Context
{
    /** @param  string  $path how the formula came here: '' for the record itself, 'vessel.' for a referred one */
    public function __construct(private readonly Record $record, private readonly Viewer $viewer, private readonly string $path = '')
    {
    }

    public function has(string $name): bool
    {
        return $name === 'id' || isset($this->type()->fields[$name]);
    }

    public function get(string $name): mixed
    {
        if ($name === 'id') {
            return $this->record->id;
        }
        $field = $this->type()->fields[$name] ?? null;
        if ($field === null) {
            return null;
        }
        $stored = $this->record->value($name);
        $this->viewer->reads->note($this->path.$name, $stored);

        return $stored === null ? null : $field->kind->seen($stored, $field, $this->viewer, $this->path.$name.'.');
    }

    public function names(): array
    {
        return ['id', ...array_keys($this->type()->fields)];
    }

    public function identity(): string
    {
        return $this->record->id;
    }

    public function typeKey(): string
    {
        return $this->record->type;
    }

    private function type(): RecordType
    {
        return $this->viewer->rulebook->types[$this->record->type];
    }
}
