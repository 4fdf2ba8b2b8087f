<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

use Sorvel\Core\Feel\Scope;
use Sorvel\Core\Feel\Values;
use Sorvel\Core\Feel\Warnings;
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
        $this->viewer->reads->note($name, Values::json($this->found[$name]));

        return $this->found[$name];
    }

    /** @return list<array<string, mixed>> */
    public function trace(): array
    {
        return $this->trace;
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
        $this->trace[] = ['name' => $lookUp->name, 'formula' => $lookUp->value->source, 'value' => Values::json($value), 'found' => $none ? 0 : (is_array($value) ? count($value) : 1), 'none' => $none ? $lookUp->none : null, ...$this->viewer->reads->take(), 'warnings' => $warnings->all()];
        foreach ($outer['reads'] as $path => $read) {
            $this->viewer->reads->note($path, $read);
        }
        foreach ($outer['tables'] as $call) {
            $this->viewer->reads->table($call['table'], $call['inputs'], $call['rows'], $call['value']);
        }
        if ($none && ($lookUp->none === 'skip_rule' || $lookUp->none === 'problem')) {
            throw new SkipRule($lookUp->none === 'problem', sprintf('The look-up %s found nothing.', $lookUp->name));
        }

        return $value;
    }
}
