<?php

declare(strict_types=1);

namespace Sorvel\Core\Format;

use Sorvel\Core\Feel\Node\Name;
use Sorvel\Core\Finding\FormulaCheck;
use Sorvel\Core\Finding\Names;
use Sorvel\Core\Mirror\Mirror;
use Sorvel\Core\Mirror\Mode;
use Sorvel\Core\Model\Dependencies;
use Sorvel\Core\Model\RecordType;

/** Mirrors. */
final class MirrorBuilder
{
    /**
     * @param  \Closure(RecordType): Names  $namesOf
     * @param  array<string, RecordType>  $types
     */
    public function __construct(private readonly RulebookBuilder $book, private readonly \Closure $namesOf, private readonly array $types)
    {
    }

    /**
     * @param  list<array<string, mixed>>  $list
     * @return array<string, Mirror>
     */
    public function mirrors(array $list): array
    {
        $mirrors = [];
        foreach ($list as $i => $m) {
            $mirror = $this->mirror($m, '/mirrors/'.$i);
            if ($this->book->isNew('/mirrors/'.$i, $m['key'], $mirrors, 'a mirror') && $mirror !== null) {
                $mirrors[$mirror->key] = $mirror;
            }
        }
        $mirrors = $this->paired($mirrors);
        $this->checkTogether($list, $mirrors);

        return $mirrors;
    }

    /** @param  array<string, mixed>  $m */
    private function mirror(array $m, string $path): ?Mirror
    {
        $types = $this->book->typesOf($m['on'], $path.'/on', $this->types);
        $from = $this->book->formula($path.'/from', $m['from']);
        foreach ($types as $type) {
            $field = $this->book->fieldOf($type, $m['field'], $path.'/field', true);
            if ($field === null || $from === null) {
                continue;
            }
            if ($field->fixed) {
                $this->book->error($path.'/field', sprintf('%s is kept by the desk itself and cannot mirror anything.', $field->label));
            }
            $this->book->take($path.'/from', FormulaCheck::value($from, $field, ($this->namesOf)($type)));
            if ($from->tree instanceof Name && $from->tree->name === $field->key) {
                $this->book->error($path.'/from', 'A field cannot mirror itself.');
            }
        }

        return $types === [] || $from === null ? null : new Mirror($m['key'], array_map(fn (RecordType $t): string => $t->key, $types), $m['field'], $from, Mode::from($m['mode'] ?? 'always'));
    }

    /**
     * Two mirrors that keep two fields of one record equal to each other.
     *
     * @param  array<string, Mirror>  $mirrors
     * @return array<string, Mirror>
     */
    private function paired(array $mirrors): array
    {
        $of = fn (Mirror $m): string => $m->from->tree instanceof Name ? $m->from->tree->name : '';
        foreach ($mirrors as $key => $mirror) {
            foreach ($mirrors as $other) {
                if ($other !== $mirror && $of($mirror) === $other->field && $of($other) === $mirror->field && array_intersect($mirror->on, $other->on) !== []) {
                    $mirrors[$key] = $mirror->paired();
                }
            }
        }

        return $mirrors;
    }

    /**
     * One field has one source, and no field follows itself by way of others that are bound.
     *
     * @param  list<array<string, mixed>>  $list
     * @param  array<string, Mirror>  $mirrors
     */
    private function checkTogether(array $list, array $mirrors): void
    {
        $bound = [];
        $places = array_flip(array_column($list, 'key'));
        foreach ($mirrors as $mirror) {
            foreach ($mirror->isBound() ? $mirror->on : [] as $type) {
                $name = $type.'.'.$mirror->field;
                if (isset($bound[$name])) {
                    $this->book->error('/mirrors/'.$places[$mirror->key].'/field', sprintf('"%s" already keeps this field equal to something else.', $bound[$name]->key));
                }
                $bound[$name] = $mirror;
            }
        }
        foreach ($bound as $name => $mirror) {
            if ($this->leadsTo($name, $name, $bound, [])) {
                $this->book->error('/mirrors/'.$places[$mirror->key].'/from', 'These mirrors go in a circle: the field follows itself by way of others.');
            }
        }
    }

    /**
     * @param  array<string, Mirror>  $bound  by type and field
     * @param  array<string, true>  $seen
     */
    private function leadsTo(string $at, string $start, array $bound, array $seen): bool
    {
        $mirror = $bound[$at];
        [$typeKey] = explode('.', $at);
        $type = $this->types[$typeKey];
        $reads = $mirror->from->tree instanceof Name ? [$typeKey.'.'.$mirror->from->tree->name] : [];
        foreach (Dependencies::of($mirror->from->tree, $type, $this->types) as $dependency) {
            $reads[] = $dependency->type.'.'.$dependency->field;
        }
        foreach ($reads as $read) {
            if ($read === $start) {
                return true;
            }
            if (isset($bound[$read]) && ! isset($seen[$read]) && $this->leadsTo($read, $start, $bound, [...$seen, $read => true])) {
                return true;
            }
        }

        return false;
    }
}
