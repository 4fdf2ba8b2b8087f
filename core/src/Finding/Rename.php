<?php

declare(strict_types=1);

namespace Sorvel\Core\Finding;

use Sorvel\Core\Feel\FeelError;
use Sorvel\Core\Feel\Printer;
use Sorvel\Core\Feel\UnaryTests;
use Sorvel\Core\Format\InputError;
use Sorvel\Core\Format\InvalidInput;
use Sorvel\Core\Format\RulebookBuilder;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\FieldType;
use Sorvel\Core\Model\RecordType;

/**
 * A new key for a field, or for one of its options or states, everywhere it is meant. What a name means is known from
 * the formula's tree, so a text or another name that is spelt alike stays; only the name itself is written anew, so
 * spaces and comments stay too.
 */
final class Rename
{
    /**
     * @param  string|null  $option  the option whose key changes; null when it is the field's
     * @param  list<string>  $with  further types whose field of the same key goes along
     */
    public function __construct(
        public readonly string $type,
        public readonly string $field,
        public readonly ?string $option,
        public readonly string $to,
        public readonly array $with = [],
    ) {
    }

    /**
     * The same for every type that has to go along: where a rule runs on several types, one formula means the field of
     * each of them.
     *
     * @param  array<string, mixed>  $tree  a rulebook that can be built
     *
     * @throws InvalidInput
     */
    public function withLinked(array $tree): self
    {
        $types = [];
        foreach (RulebookBuilder::mentions($tree) as $mention) {
            if ($mention->field->key === $this->field && $mention->option === $this->option) {
                $types[$mention->path.' '.$mention->from][$mention->field->of] = true;
            }
        }
        $linked = [$this->type => true];
        do {
            $before = count($linked);
            foreach ($types as $place) {
                $linked += array_intersect_key($place, $linked) === [] ? [] : $place;
            }
        } while (count($linked) > $before);
        unset($linked[$this->type]);

        return new self($this->type, $this->field, $this->option, $this->to, array_map(strval(...), array_keys($linked)));
    }

    /** @return list<self> one a type */
    public function each(): array
    {
        return array_map(fn (string $type): self => new self($type, $this->field, $this->option, $this->to), $this->types());
    }

    /** @return non-empty-list<string> */
    private function types(): array
    {
        return [$this->type, ...$this->with];
    }

    /**
     * @param  array<string, mixed>  $tree  a rulebook that can be built
     * @return array<string, mixed>
     *
     * @throws InvalidInput when there is no such field, the new key is taken, or it would mean something else somewhere
     */
    public function inRulebook(array $tree): array
    {
        $types = RulebookBuilder::build($tree)->types;
        foreach ($this->each() as $one) {
            $one->guardKey($one->fieldOf($types), $tree);
        }
        $mentions = $this->mine(RulebookBuilder::mentions($tree), $this->field, $this->option);
        foreach ($mentions as $path => $places) {
            $at = &self::at($tree, (string) $path);
            $at = $this->written($at, $places);
            unset($at);
        }
        foreach ($tree['types'] as &$type) {
            if (in_array($type['key'], $this->types(), true)) {
                $type = $this->inType($type);
            }
        }
        unset($type);
        $after = $this->mine(RulebookBuilder::mentions($tree), $this->option === null ? $this->to : $this->field, $this->option === null ? null : $this->to);
        foreach ($mentions as $path => $places) {
            if (count($after[$path] ?? []) !== count($places)) {
                throw new InvalidInput([new InputError((string) $path, sprintf('"%s" already means something else in this formula; choose another key.', $this->to))]);
            }
        }

        return $tree;
    }

    /**
     * @param  array<string, mixed>  $sample  its tree
     * @param  array<string, RecordType>  $types  as they are before the new key
     * @return array<string, mixed>
     */
    public function inSample(array $sample, array $types): array
    {
        foreach ($this->each() as $one) {
            $sample = $one->inSampleOfType($sample, $one->fieldOf($types));
        }

        return $sample;
    }

    /**
     * @param  array<string, mixed>  $sample
     * @return array<string, mixed>
     */
    private function inSampleOfType(array $sample, Field $field): array
    {
        $of = [];
        foreach ($sample['given'] ?? [] as $key => $records) {
            foreach ($records as $i => $record) {
                $of[(string) ($record['id'] ?? '')] = $key;
                if ($key === $this->type) {
                    $sample['given'][$key][$i] = $this->inFields($record, $field);
                }
            }
        }
        foreach ($sample['steps'] ?? [] as $i => $step) {
            $type = $step['create'] ?? $of[(string) ($step['change'] ?? '')] ?? null;
            if (isset($step['create'], $step['as'])) {
                $of[(string) $step['as']] = $step['create'];
            }
            if ($type === $this->type && isset($step['with'])) {
                $sample['steps'][$i]['with'] = $this->inFields($step['with'], $field);
            }
            foreach ($step['expect'] ?? [] as $id => $expected) {
                if (($of[(string) $id] ?? null) === $this->type && is_array($expected)) {
                    $sample['steps'][$i]['expect'][$id] = $this->inFields($expected, $field);
                }
            }
        }

        return isset($sample['variants']) ? $this->inVariants($sample, $of, $field) : $sample;
    }

    /**
     * @param  array<string, mixed>  $sample
     * @param  array<string, string>  $of  type by record
     * @return array<string, mixed>
     */
    private function inVariants(array $sample, array $of, Field $field): array
    {
        $last = $sample['steps'][count($sample['steps']) - 1] ?? [];
        $type = $last['create'] ?? $of[(string) ($last['change'] ?? '')] ?? null;
        foreach (['inputs' => 'in', 'outcomes' => 'out'] as $columns => $side) {
            foreach ($sample['variants'][$columns] as $column => $name) {
                [$id, $key] = str_contains($name, '.') ? explode('.', $name, 2) : [null, $name];
                if ($key !== $this->field || ($id === null ? $type : $of[$id] ?? null) !== $this->type) {
                    continue;
                }
                if ($this->option === null) {
                    $sample['variants'][$columns][$column] = ($id === null ? '' : $id.'.').$this->to;
                }
                foreach ($this->option === null ? [] : $sample['variants']['lines'] as $i => $line) {
                    $sample['variants']['lines'][$i][$side][$column] = $this->inValue($line[$side][$column] ?? null, $field);
                }
            }
        }

        return $sample;
    }

    /**
     * @param  array<array-key, mixed>  $values  by field
     * @return array<array-key, mixed> in the same order
     */
    public function inFields(array $values, Field $field): array
    {
        $renamed = [];
        foreach ($values as $key => $value) {
            if ($key !== $this->field) {
                $renamed[$key] = $value;
            } elseif ($this->option === null) {
                $renamed[$this->to] = $value;
            } else {
                $renamed[$key] = $this->inValue($value, $field);
            }
        }

        return $renamed;
    }

    private function inValue(mixed $value, Field $field): mixed
    {
        if (is_array($value) && is_string($value['test'] ?? null)) {
            try {
                $found = FormulaCheck::tests(UnaryTests::parse($value['test']), KnownType::ofField($field, []), Names::none([], [], []))->mentions;
            } catch (FeelError) {
                return $value;
            }
            $places = $this->mine($found, $this->field, $this->option)[''] ?? [];

            return [...$value, 'test' => $this->written($value['test'], $places)];
        }

        return $this->inStored($value);
    }

    /** A stored value of the field: the option under its new key, in a list too. */
    public function inStored(mixed $value): mixed
    {
        return is_array($value) ? array_map(fn (mixed $each): mixed => $this->inStored($each), $value) : ($value === $this->option ? $this->to : $value);
    }

    /** @param  array<string, RecordType>  $types */
    private function fieldOf(array $types): Field
    {
        $field = $types[$this->type]->fields[$this->field] ?? null;
        if ($field === null) {
            throw new InvalidInput([new InputError('', sprintf('There is no field "%s.%s".', $this->type, $this->field))]);
        }
        if ($this->option !== null && ! isset($field->options[$this->option])) {
            throw new InvalidInput([new InputError('', sprintf('%s has no option "%s".', $field->label, $this->option))]);
        }
        if ($this->option === null && $field->builtIn) {
            throw new InvalidInput([new InputError('', sprintf('%s is built in; its key stays.', $field->label))]);
        }

        return $field;
    }

    /** @param  array<string, mixed>  $tree */
    private function guardKey(Field $field, array $tree): void
    {
        if (preg_match('~^[a-z][a-z0-9_]{0,59}$~', $this->to) !== 1) {
            throw new InvalidInput([new InputError('/to', 'A key is small letters, digits and _, and starts with a letter; an example is hours_down.')]);
        }
        $taken = $this->option === null ? array_column($tree['types'][array_search($this->type, array_column($tree['types'], 'key'), true)]['fields'], 'key') : array_map(strval(...), array_keys($field->options));
        if (in_array($this->to, $taken, true)) {
            throw new InvalidInput([new InputError('/to', sprintf('There is already %s "%s".', $this->option === null ? 'a field' : 'an option', $this->to))]);
        }
    }

    /**
     * @param  list<Mention>  $mentions
     * @return array<string, list<Mention>> by path, last in the text first
     */
    private function mine(array $mentions, string $field, ?string $option): array
    {
        $mine = [];
        foreach ($mentions as $mention) {
            if (in_array($mention->field->of, $this->types(), true) && $mention->field->key === $field && $mention->option === $option) {
                $mine[$mention->path][$mention->from ?? -1] = $mention;
            }
        }

        return array_map(function (array $places): array {
            krsort($places);

            return array_values($places);
        }, $mine);
    }

    /** @param  list<Mention>  $places */
    private function written(mixed $text, array $places): string
    {
        $text = RulebookBuilder::text($text);
        foreach ($places as $place) {
            if ($place->from === null || $place->to === null) {
                $text = str_contains($text, '.') ? $place->field->of.'.'.$this->to : $this->to;
            } else {
                $text = substr_replace($text, $this->option === null ? $this->to : Printer::quote($this->to), $place->from, $place->to - $place->from);
            }
        }

        return $text;
    }

    /**
     * @param  array<string, mixed>  $type
     * @return array<string, mixed>
     */
    private function inType(array $type): array
    {
        $swap = fn (mixed $key): mixed => $key === $this->option ? $this->to : $key;
        if ($this->option !== null && $this->field === FieldType::State->value) {
            $type['states'] = array_map(fn (array $s): array => [...$s, 'key' => $swap($s['key'])], $type['states']);
            if (isset($type['moves'])) {
                $type['moves'] = array_map(fn (array $m): array => [...$m, 'from' => $swap($m['from']), 'to' => array_map($swap, $m['to'])], $type['moves']);
            }

            return $type;
        }
        foreach ($type['fields'] as &$field) {
            if ($field['key'] === $this->field && $this->option === null) {
                $field['key'] = $this->to;
            } elseif ($field['key'] === $this->field) {
                $field['options'] = array_map(fn (array $o): array => [...$o, 'key' => $swap($o['key'])], $field['options']);
            }
        }
        unset($field);
        if ($this->option === null && ($type['name_field'] ?? null) === $this->field) {
            $type['name_field'] = $this->to;
        }

        return $type;
    }

    /**
     * @param  array<array-key, mixed>  $tree
     */
    private static function &at(array &$tree, string $pointer): mixed
    {
        $at = &$tree;
        foreach (explode('/', substr($pointer, 1)) as $key) {
            $at = &$at[strtr($key, ['~1' => '/', '~0' => '~'])];
        }

        return $at;
    }
}
