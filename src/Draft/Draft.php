<?php

declare(strict_types=1);

namespace Sorvel\App\Draft;

use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Psr\Clock\ClockInterface;
use Sorvel\App\Edition\Editions;
use Sorvel\App\Http\Problem;
use Sorvel\App\People\Person;
use Sorvel\Core\Finding\Rename;
use Sorvel\Core\Format\InputError;
use Sorvel\Core\Format\InvalidInput;
use Sorvel\Core\Format\RulebookBuilder;
use Sorvel\Core\Format\SampleBuilder;
use Sorvel\Core\Format\SchemaCheck;
use Sorvel\Core\Format\Writer;
use Sorvel\Core\Model\Rulebook;
use Sorvel\Core\Replay\Sample;

/** The rulebook being edited. Every save leaves a rulebook that can be built, or nothing is saved. */
final class Draft
{
    private const BECOMES = [PartKind::Tables, PartKind::Rules, PartKind::Guards, PartKind::Mirrors];

    /** @var array<string, list<DraftPart>>|null */
    private ?array $parts = null;

    public function __construct(
        private readonly EntityManagerInterface $entities,
        private readonly Editions $editions,
        private readonly ClockInterface $clock,
        private readonly KeyChanges $keyChanges,
    ) {
    }

    /** @return list<DraftPart> in order */
    public function parts(PartKind $kind): array
    {
        if ($this->parts === null) {
            $this->parts = [];
            foreach ($this->entities->getRepository(DraftPart::class)->findBy([], ['position' => 'ASC', 'id' => 'ASC']) as $part) {
                $this->parts[$part->kind()->value][] = $part;
            }
        }

        return $this->parts[$kind->value] ?? [];
    }

    public function find(PartKind $kind, string $key): ?DraftPart
    {
        foreach ($this->parts($kind) as $part) {
            if ($part->key() === $key) {
                return $part;
            }
        }

        return null;
    }

    /**
     * The whole rulebook as a tree, with one part replaced, added (when there is none of its key) or left out.
     *
     * @param  array<string, mixed>|null  $with  the part's tree
     * @return array<string, mixed>
     */
    public function tree(?PartKind $kind = null, ?string $key = null, ?array $with = null): array
    {
        $desk = ($this->parts(PartKind::Desk)[0] ?? null)?->tree() ?? throw new Problem(409, 'This desk has no rulebook yet.', 'On the machine it runs on: bin/sorvel load RULEBOOK SAMPLES…');
        $tree = ['sorvel' => 1, ...$desk, 'people' => $this->people()];
        foreach ([PartKind::Types, PartKind::Tables, PartKind::Rules, PartKind::Guards, PartKind::Mirrors] as $each) {
            $list = [];
            $found = false;
            foreach ($this->parts($each) as $part) {
                if ($each === $kind && $part->key() === $key) {
                    $found = true;
                    if ($with !== null) {
                        $list[] = $with;
                    }
                } else {
                    $list[] = $part->tree();
                }
            }
            if ($each === $kind && ! $found && $with !== null) {
                $list[] = $with;
            }
            $tree[$each->value] = $list;
        }

        return $tree;
    }

    /** @return list<array<string, mixed>> */
    public function people(): array
    {
        return array_map(fn (Person $p): array => $p->tree(), array_values($this->entities->getRepository(Person::class)->findBy([], ['key' => 'ASC'])));
    }

    public function rulebook(): Rulebook
    {
        return RulebookBuilder::build($this->tree());
    }

    /**
     * The rulebook with one part as given; input errors point into that part's tree, or name another part that it
     * would break.
     *
     * @param  array<string, mixed>  $tree
     */
    public function rulebookWith(PartKind $kind, string $key, array $tree): Rulebook
    {
        $errors = SchemaCheck::errors($kind === PartKind::Samples ? 'samples' : 'rulebook', $tree, $kind->definition());
        if ($errors !== []) {
            throw Problem::input(sprintf('The %s cannot be read.', $kind->one()), $errors, '/tree');
        }
        if ($kind === PartKind::Samples) {
            return $this->rulebook();
        }
        $whole = $this->tree($kind, $key, $tree);
        try {
            return RulebookBuilder::build($whole);
        } catch (InvalidInput $invalid) {
            throw Problem::input(sprintf('The %s is not in order.', $kind->one()), $this->pointed($invalid->errors, $kind, $key, $whole));
        }
    }

    /**
     * @param  non-empty-list<InputError>  $errors
     * @param  array<string, mixed>  $whole
     * @return list<InputError>
     */
    private function pointed(array $errors, PartKind $kind, string $key, array $whole): array
    {
        return array_map(function (InputError $error) use ($kind, $key, $whole): InputError {
            preg_match('~^/(\w+)/(\d+)(.*)$~', $error->path, $match);
            $list = $match[1] ?? '';
            $other = $whole[$list][(int) ($match[2] ?? 0)] ?? null;
            $otherKey = is_array($other) ? (string) ($other['key'] ?? '') : '';
            if ($list === $kind->value && $otherKey === $key) {
                return new InputError('/tree'.($match[3] ?? ''), $error->message, null, null, $error->from, $error->to);
            }

            return new InputError('', sprintf('It would break the %s "%s": %s', PartKind::tryFrom($list)?->one() ?? 'part', is_array($other) ? (string) ($other['title'] ?? $otherKey) : $list, $error->message));
        }, $errors);
    }

    /** @return list<Sample> */
    public function samples(): array
    {
        return array_map(SampleBuilder::build(...), $this->sampleTrees());
    }

    /** @return list<array<string, mixed>> */
    public function sampleTrees(): array
    {
        return array_map(fn (DraftPart $p): array => $p->tree(), $this->parts(PartKind::Samples));
    }

    /** @param  array<string, mixed>  $tree */
    public static function sample(array $tree): Sample
    {
        try {
            return SampleBuilder::build($tree);
        } catch (InvalidInput $invalid) {
            throw Problem::input('The sample is not in order.', $invalid->errors, '/tree');
        }
    }

    /** @param  array<string, mixed>  $tree */
    public function add(PartKind $kind, array $tree, ?int $position, string $by): DraftPart
    {
        $key = is_string($tree['key'] ?? null) ? $tree['key'] : '';
        if ($key !== '' && $this->find($kind, $key) !== null) {
            throw new Problem(409, sprintf('There is already a %s "%s".', $kind->one(), $key), 'Give it another key.', [['pointer' => '/tree/key', 'detail' => 'This key is taken.']]);
        }
        $this->check($kind, $key, $tree);
        $parts = $this->parts($kind);
        $position = max(0, min($position ?? count($parts), count($parts)));
        $part = new DraftPart($kind, $key, $position, $this->normal($kind, $tree), $by, $this->clock->now());
        array_splice($parts, $position, 0, [$part]);
        $this->entities->persist($part);
        $this->keepOrder($kind, $parts);

        return $part;
    }

    /** @param  array<string, mixed>  $tree */
    public function save(PartKind $kind, string $key, array $tree, int $version, string $by): DraftPart
    {
        if (($tree['key'] ?? null) !== $key) {
            throw new Problem(422, 'The key of a part cannot be changed here.', 'Nothing was saved.', [['pointer' => '/tree/key', 'detail' => sprintf('It must be "%s".', $key)]]);
        }
        $this->check($kind, $key, $tree);

        return $this->locked($kind, $key, $version, function (DraftPart $part) use ($kind, $tree, $by): void {
            $normal = $this->normal($kind, $tree);
            if ($normal !== $part->tree()) {
                $part->become($normal, $by, $this->clock->now());
            }
        });
    }

    public function delete(PartKind $kind, string $key, int $version): void
    {
        if ($kind === PartKind::Types && in_array($key, array_column($this->editions->current()?->rulebook()['types'] ?? [], 'key'), true)) {
            throw new Problem(409, 'A type that is in use on the desk stays.', 'Retire its fields, or empty it and leave it unused.');
        }
        if ($kind !== PartKind::Samples) {
            $whole = $this->tree($kind, $key, null);
            try {
                RulebookBuilder::build($whole);
            } catch (InvalidInput $invalid) {
                throw Problem::input(sprintf('The %s is still used.', $kind->one()), $this->pointed($invalid->errors, $kind, $key, $whole));
            }
        }
        $this->locked($kind, $key, $version, function (DraftPart $part) use ($kind): void {
            $this->entities->remove($part);
            $this->keepOrder($kind, array_values(array_filter($this->parts($kind), fn (DraftPart $p): bool => $p !== $part)));
        });
    }

    /** A new key everywhere it is meant: in types, tables, rules and samples, all at once or not at all. What it came to: with the types that went along. */
    public function rename(Rename $rename, string $by): Rename
    {
        return $this->entities->wrapInTransaction(function () use ($rename, $by): Rename {
            $this->entities->getConnection()->executeQuery('SELECT id FROM draft_part FOR UPDATE')->free();
            $this->entities->clear();
            $this->parts = null;
            try {
                $types = $this->rulebook()->types;
                $rename = $rename->withLinked($this->tree());
                $renamed = $rename->inRulebook($this->tree());
                RulebookBuilder::build($renamed);
            } catch (InvalidInput $invalid) {
                throw Problem::input('The key was not changed.', array_map(fn (InputError $e): InputError => new InputError($e->path === '/to' ? '/to' : '', $e->message), $invalid->errors));
            }
            foreach ([PartKind::Types, PartKind::Tables, PartKind::Rules, PartKind::Guards, PartKind::Mirrors, PartKind::Samples] as $kind) {
                foreach ($this->parts($kind) as $i => $part) {
                    /** @var array<string, mixed> $tree */
                    $tree = $kind === PartKind::Samples ? $rename->inSample($part->tree(), $types) : $renamed[$kind->value][$i];
                    if ($tree !== $part->tree()) {
                        $part->become($this->normal($kind, $tree), $by, $this->clock->now());
                    }
                }
            }
            $this->entities->flush();

            return $rename;
        });
    }

    /**
     * Rules, tables, guards and mirrors as another rulebook has them; types, teams, people and samples stay as they are.
     *
     * @param  array<string, mixed>  $tree
     */
    public function become(array $tree, string $by): void
    {
        $whole = $this->becoming($tree);
        foreach (self::BECOMES as $kind) {
            $old = [];
            foreach ($this->parts($kind) as $part) {
                $old[$part->key()] = $part;
            }
            $parts = [];
            foreach ($whole[$kind->value] as $position => $one) {
                $normal = $this->normal($kind, $one);
                $part = $old[$one['key']] ?? null;
                if ($part === null) {
                    $part = new DraftPart($kind, $one['key'], $position, $normal, $by, $this->clock->now());
                    $this->entities->persist($part);
                } elseif ($normal !== $part->tree()) {
                    $part->become($normal, $by, $this->clock->now());
                }
                unset($old[$one['key']]);
                $parts[] = $part;
            }
            foreach ($old as $part) {
                $this->entities->remove($part);
            }
            $this->keepOrder($kind, $parts);
        }
    }

    /**
     * What it would be after that.
     *
     * @param  array<string, mixed>  $tree
     * @return array<string, mixed>
     */
    public function becoming(array $tree): array
    {
        $whole = $this->tree();
        foreach (self::BECOMES as $kind) {
            $whole[$kind->value] = is_array($tree[$kind->value] ?? null) ? $tree[$kind->value] : [];
        }
        try {
            RulebookBuilder::build($whole);
        } catch (InvalidInput $invalid) {
            throw new Problem(409, 'It does not go with the fields and people as they are now.', 'Nothing was changed. Mend what is listed, or take over single rules by hand.', array_map(fn (InputError $e): array => ['pointer' => '', 'detail' => $e->path.': '.$e->message], array_slice($invalid->errors, 0, 20)));
        }

        return $whole;
    }

    /** @param  list<string>  $keys every rule once, in the new running order */
    public function order(array $keys): void
    {
        $rules = [];
        foreach ($this->parts(PartKind::Rules) as $rule) {
            $rules[$rule->key()] = $rule;
        }
        if (count($keys) !== count($rules) || array_diff($keys, array_keys($rules)) !== [] || count(array_unique($keys)) !== count($keys)) {
            throw new Problem(409, 'The order does not name every rule exactly once.', 'Somebody may have added or removed a rule; reload and try again.');
        }
        $this->keepOrder(PartKind::Rules, array_map(fn (string $key): DraftPart => $rules[$key], $keys));
    }

    /** @return list<array{kind: string, key: string, title: string, what: string}> what the draft differs in from the edition in force */
    public function changes(): array
    {
        return Difference::between($this->editions->current()?->rulebook() ?? [], $this->tree());
    }

    /** @param  array<string, mixed>  $tree */
    private function check(PartKind $kind, string $key, array $tree): void
    {
        $this->rulebookWith($kind, $key, $tree);
        if ($kind === PartKind::Types) {
            $this->mustKeepFields($key, $tree);
        }
        if ($kind === PartKind::Samples) {
            $errors = SampleBuilder::strangers(self::sample($tree), $this->rulebook());
            if ($errors !== []) {
                throw Problem::input('The sample names something that is not there.', $errors, '/tree');
            }
        }
    }

    /**
     * A field that records may hold is retired, not removed; its kind and short name stay.
     *
     * @param  array<string, mixed>  $tree
     */
    private function mustKeepFields(string $key, array $tree): void
    {
        $live = null;
        foreach ($this->editions->current()?->rulebook()['types'] ?? [] as $type) {
            $live = $type['key'] === $key ? $type : $live;
        }
        $here = array_column(is_array($tree['fields'] ?? null) ? $tree['fields'] : [], 'key');
        $errors = [];
        foreach ($this->find(PartKind::Types, $key)?->tree()['fields'] ?? [] as $i => $field) {
            $isLive = in_array($this->keyChanges->oldKey($key, (string) $field['key']), array_column(is_array($live['fields'] ?? null) ? $live['fields'] : [], 'key'), true);
            if ($isLive && ! in_array($field['key'], $here, true)) {
                $errors[] = new InputError('/tree/fields/'.$i, sprintf('%s is in use on the desk and its values would go with it. Retire it instead.', $field['label']));
            }
        }
        foreach (['kind' => 'kind', 'short' => 'short name'] as $what => $name) {
            if ($live !== null && ($tree[$what] ?? null) !== ($live[$what] ?? null)) {
                $errors[] = new InputError('/tree/'.$what, sprintf('The %s of a type with records stays as it is.', $name));
            }
        }
        if ($errors !== []) {
            throw Problem::input('The type was not saved.', $errors);
        }
    }

    /**
     * @param  array<string, mixed>  $tree
     * @return array<string, mixed>
     */
    private function normal(PartKind $kind, array $tree): array
    {
        /** @var array<string, mixed> */
        return Writer::normal($tree, $kind === PartKind::Samples ? 'samples' : 'rulebook');
    }

    /** @param  \Closure(DraftPart): void  $act */
    private function locked(PartKind $kind, string $key, int $version, \Closure $act): DraftPart
    {
        return $this->entities->wrapInTransaction(function () use ($kind, $key, $version, $act): DraftPart {
            $part = $this->find($kind, $key);
            if ($part === null) {
                throw new Problem(404, sprintf('There is no %s "%s".', $kind->one(), $key), 'It may have been removed.');
            }
            $this->entities->lock($part, LockMode::PESSIMISTIC_WRITE);
            $this->entities->refresh($part);
            if ($part->version() !== $version) {
                throw new Problem(412, sprintf('Somebody saved this %s since you opened it.', $kind->one()), 'Nothing was overwritten. Compare both and decide.', [], ['current' => $part->toArray()]);
            }
            $act($part);

            return $part;
        });
    }

    /** @param  list<DraftPart>  $parts */
    private function keepOrder(PartKind $kind, array $parts): void
    {
        $this->entities->flush();
        foreach ($parts as $position => $part) {
            // not through the entity: its place is not part of what its version guards
            $this->entities->getConnection()->executeStatement('UPDATE draft_part SET position = ? WHERE id = ?', [$position, $part->id()]);
        }
        if ($this->parts !== null) {
            $this->parts[$kind->value] = $parts;
        }
    }
}
