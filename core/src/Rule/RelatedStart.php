<?php

declare(strict_types=1);

namespace Sorvel\Core\Rule;

/** The record that a reference points to has changed. */
final class RelatedStart implements Start
{
    /**
     * @param  string  $via  key of the reference
     * @param  list<string>  $fields  of the other record, one of which must have changed; any when empty
     */
    public function __construct(public readonly string $via, public readonly array $fields)
    {
    }

    public function kind(): string
    {
        return 'related';
    }

    public function why(Moment $moment): ?array
    {
        foreach ($moment->event->related[$this->via] ?? [] as $record => $changed) {
            $fields = $this->fields === [] ? $changed : array_values(array_intersect($this->fields, $changed));
            if ($fields !== []) {
                return ['kind' => 'related', 'via' => $this->via, 'record' => (string) $record, 'fields' => $fields];
            }
        }

        return null;
    }

    public function watches(): array
    {
        return [];
    }
}
