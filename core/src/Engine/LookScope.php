<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

use Sorvel\Core\Feel\Scope;
use Sorvel\Core\Feel\Values;
use Sorvel\Core\Feel\Warnings;
use Sorvel\Core\Model\Reads;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\Viewer;
use Sorvel\Core\Rule\LookUp;
use Sorvel\Core\Rule\Rule;

/** The event's names, and before them a rule's look-ups, each found when first read. */
final class LookScope implements Scope
{
    /** @var array<string, mixed> */
    private array $found = [];

    /** @var list<array<string, mixed>> for the trace, in the order found */
    private array $trace = [];

    /** @var array<string, mixed> what was found, as plain data */
    private array $plain = [];

    /** @var list<array{table: string, inputs: list<mixed>, rows: list<int>, value: mixed}> calls of tables */
    private array $tables = [];

    /** @var array<string, true> being found right now */
    private array $open = [];

    public function __construct(private readonly Rule $rule, private readonly EventScope $event, private readonly Viewer $viewer)
    {
    }

    public function has(string $name): bool
    {
        return isset($this->rule->lookUps[$name]) || $this->event->has($name);
    }

    public function get(string $name): mixed
    {
        $lookUp = $this->rule->lookUps[$name] ?? null;
        if ($lookUp === null) {
            return $this->event->get($name);
        }
        if (! array_key_exists($name, $this->found)) {
            if (isset($this->open[$name])) {
                return null;
            }
            $this->open[$name] = true;
            try {
                $this->found[$name] = $this->find($lookUp);
            } finally {
                unset($this->open[$name]);
            }
        }
        $this->viewer->reads->values[$name] = $this->plain[$name];

        return $this->found[$name];
    }

    /** @return list<array<string, mixed>> */
    public function trace(): array
    {
        return $this->trace;
    }

    /** @return list<array{table: string, inputs: list<mixed>, rows: list<int>, value: mixed}> the calls of tables that finding took */
    public function tables(): array
    {
        return $this->tables;
    }

    private function find(LookUp $lookUp): mixed
    {
        $outer = $this->viewer->reads->take();
        $warnings = new Warnings;
        $value = $lookUp->value->value($this, $warnings);
        $none = Record::isEmpty($value);
        if ($none && $lookUp->none === 'use') {
            $value = $lookUp->use?->value($this, $warnings);
        }
        $seen = $this->viewer->reads->take();
        array_push($this->tables, ...$seen['tables']);
        $this->plain[$lookUp->name] = Values::json($value);
        $this->trace[] = ['name' => $lookUp->name, 'formula' => $lookUp->value->source, 'value' => $this->plain[$lookUp->name], 'found' => $none ? 0 : (is_array($value) ? count($value) : 1), 'none' => $none ? $lookUp->none : null, ...Reads::plain($seen), 'warnings' => $warnings->all()];
        foreach ($outer['reads'] as $path => $read) {
            $this->viewer->reads->note($path, $read);
        }
        array_push($this->viewer->reads->tables, ...$outer['tables']);
        if ($none && ($lookUp->none === 'skip_rule' || $lookUp->none === 'problem')) {
            throw new SkipRule($lookUp->none === 'problem', sprintf('The look-up %s found nothing.', $lookUp->name));
        }

        return $value;
    }
}
