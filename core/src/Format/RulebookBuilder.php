<?php

declare(strict_types=1);

namespace Sorvel\Core\Format;

use Sorvel\Core\Feel\FeelError;
use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Feel\UnaryTests;
use Sorvel\Core\Finding\Checked;
use Sorvel\Core\Finding\FormulaCheck;
use Sorvel\Core\Finding\KnownType;
use Sorvel\Core\Finding\Mention;
use Sorvel\Core\Finding\Names;
use Sorvel\Core\Guard\Guard;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\Person;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Role;
use Sorvel\Core\Model\Rulebook;
use Sorvel\Core\Model\Team;
use Sorvel\Core\Rule\Rule;
use Sorvel\Core\Table\Table;

/**
 * A tree that fits the schema to a Rulebook. Collects every error with its JSON pointer; what this version does not do
 * yet is refused by name.
 */
final class RulebookBuilder
{
    /** @var list<InputError> */
    private array $errors = [];

    /** @var list<Mention> */
    private array $mentions = [];

    /** @var array<string, Names> by rule */
    private array $names = [];

    /** @var array<string, Formula|FeelError> formulas by text, kept over builds: an edit reparses what it changed */
    private static array $formulas = [];

    /** @var array<string, UnaryTests|FeelError> */
    private static array $tests = [];

    private function __construct()
    {
    }

    /**
     * @param  array<array-key, mixed>  $tree
     *
     * @throws InvalidInput
     */
    public static function build(array $tree): Rulebook
    {
        return (new self)->rulebook($tree);
    }

    /**
     * Every place that names a field or an option, outside the definition of the field itself.
     *
     * @param  array<array-key, mixed>  $tree
     * @return list<Mention>
     *
     * @throws InvalidInput
     */
    public static function mentions(array $tree): array
    {
        $builder = new self;
        $builder->rulebook($tree);

        return array_values(array_unique($builder->mentions, SORT_REGULAR));
    }

    /**
     * The rulebook with what was learned of it on the way.
     *
     * @param  array<array-key, mixed>  $tree
     * @return array{Rulebook, list<Mention>, array<string, Names>} names by rule
     *
     * @throws InvalidInput
     */
    public static function examined(array $tree): array
    {
        $builder = new self;
        $rulebook = $builder->rulebook($tree);

        return [$rulebook, array_values(array_unique($builder->mentions, SORT_REGULAR)), $builder->names];
    }

    /**
     * What the formulas of a rule may name, for the first type that it runs on, or without a rule those on a type; null
     * when there is no such rule or type.
     *
     * @param  array<array-key, mixed>  $tree
     *
     * @throws InvalidInput
     */
    public static function names(array $tree, string $rule, ?string $on = null): ?Names
    {
        $builder = new self;
        $book = $builder->rulebook($tree);
        if ($on !== null) {
            return isset($book->types[$on]) ? Names::ofRecord($book->types[$on], $book->types, $book->people, $book->teams, $book->tables) : null;
        }

        return $builder->names[$rule] ?? null;
    }

    /** @param  array<array-key, mixed>  $tree */
    private function rulebook(array $tree): Rulebook
    {
        $timezone = (string) ($tree['timezone'] ?? 'UTC');
        if (! in_array($timezone, \DateTimeZone::listIdentifiers(), true)) {
            $this->error('/timezone', sprintf('"%s" is not a time zone; an example is "Europe/Lisbon".', $timezone));
        }
        $people = $this->people($tree['people'] ?? []);
        $teams = $this->teams($tree['teams'] ?? [], $people);
        $types = (new TypeBuilder($this))->types($tree['types'] ?? [], $people, $teams);
        $types = (new TypeBuilder($this))->tallied($tree['types'] ?? [], $types);
        $types = (new TypeBuilder($this))->inferred($types, fn (RecordType $t, array $all): Names => Names::ofRecord($t, $all, $people, $teams, []));
        $tables = $this->tables($tree['tables'] ?? [], $types, $people, $teams);
        (new TypeBuilder($this))->checkDefaults($tree['types'] ?? [], $types, fn (RecordType $t): Names => Names::ofRecord($t, $types, $people, $teams, $tables));
        (new TypeBuilder($this))->checkTallies($tree['types'] ?? [], $types, fn (RecordType $t): Names => Names::ofRecord($t, $types, $people, $teams, $tables));
        (new TypeBuilder($this))->checkDerived($tree['types'] ?? [], $types, fn (RecordType $t): Names => Names::ofRecord($t, $types, $people, $teams, $tables));
        $rules = $this->rules($tree['rules'] ?? [], $types, $people, $teams, $tables);
        $mirrors = (new MirrorBuilder($this, fn (RecordType $t): Names => Names::ofRecord($t, $types, $people, $teams, $tables), $types))->mirrors($tree['mirrors'] ?? []);
        $guards = $this->guards($tree['guards'] ?? [], fn (RecordType $t): Names => Names::ofRecord($t, $types, $people, $teams, $tables), $types);
        if ($this->errors !== []) {
            throw new InvalidInput($this->errors);
        }

        return new Rulebook((string) $tree['desk'], (string) $tree['title'], $timezone, $teams, $people, $types, $tables, $rules, $guards, $mirrors);
    }

    public function error(string $path, string $message, ?FeelError $at = null): void
    {
        $error = new InputError($path, $message, null, null, $at?->from, $at?->to);
        // a rule on several types is looked at once for each
        if (! in_array($error, $this->errors, false)) {
            $this->errors[] = $error;
        }
    }

    public function unsupported(string $path, string $what): void
    {
        $this->error($path, $what.' not supported yet.');
    }

    /** @param  array<string, mixed>  $seen */
    public function isNew(string $path, string $key, array $seen, string $what): bool
    {
        if (isset($seen[$key])) {
            $this->error($path.'/key', sprintf('There is already %s "%s".', $what, $key));

            return false;
        }

        return true;
    }

    public function formula(string $path, mixed $text): ?Formula
    {
        $source = self::text($text);
        self::$formulas = count(self::$formulas) > 20_000 ? [] : self::$formulas;
        try {
            $parsed = self::$formulas[$source] ??= Formula::parse($source);
        } catch (FeelError $error) {
            $parsed = self::$formulas[$source] = $error;
        }
        if ($parsed instanceof FeelError) {
            $this->error($path, $parsed->getMessage(), $parsed);

            return null;
        }

        return $parsed;
    }

    public function tests(string $path, mixed $text): ?UnaryTests
    {
        $source = self::text($text);
        self::$tests = count(self::$tests) > 20_000 ? [] : self::$tests;
        try {
            $parsed = self::$tests[$source] ??= UnaryTests::parse($source);
        } catch (FeelError $error) {
            $parsed = self::$tests[$source] = $error;
        }
        if ($parsed instanceof FeelError) {
            $this->error($path, $parsed->getMessage(), $parsed);

            return null;
        }

        return $parsed;
    }

    public function take(string $path, Checked $checked): KnownType
    {
        foreach ($checked->errors as $error) {
            $this->error($path, $error->getMessage(), $error);
        }
        foreach ($checked->mentions as $mention) {
            $this->mentions[] = $mention->at($path);
        }

        return $checked->type;
    }

    /** A scalar of the tree that is nothing but the key of a field, or of an option. */
    public function mention(string $path, Field $field, ?string $option = null, bool $writes = false): void
    {
        $this->mentions[] = new Mention($field, $option, null, null, $writes, $path);
    }

    /** A cell may be written as a YAML number or boolean. */
    public static function text(mixed $cell): string
    {
        return match (true) {
            is_bool($cell) => $cell ? 'true' : 'false',
            is_float($cell) => (string) json_encode($cell),
            default => is_scalar($cell) ? (string) $cell : '',
        };
    }

    /**
     * @param  list<array<string, mixed>>  $list
     * @return array<string, Person>
     */
    private function people(array $list): array
    {
        $people = [];
        foreach ($list as $i => $p) {
            if ($this->isNew('/people/'.$i, $p['key'], $people, 'a person')) {
                $people[$p['key']] = new Person($p['key'], $p['name'], $p['email'] ?? null, $p['active'] ?? true, $p['away'] ?? false, Role::from($p['role'] ?? 'agent'));
            }
        }

        return $people;
    }

    /**
     * @param  list<array<string, mixed>>  $list
     * @param  array<string, Person>  $people
     * @return array<string, Team>
     */
    private function teams(array $list, array $people): array
    {
        $teams = [];
        foreach ($list as $i => $t) {
            foreach ($t['members'] ?? [] as $m => $member) {
                if (! isset($people[$member])) {
                    $this->error('/teams/'.$i.'/members/'.$m, sprintf('There is no person "%s".', $member));
                }
            }
            if ($this->isNew('/teams/'.$i, $t['key'], $teams, 'a team')) {
                $teams[$t['key']] = new Team($t['key'], $t['name'], $t['members'] ?? []);
            }
        }

        return $teams;
    }

    /**
     * @param  list<array<string, mixed>>  $list
     * @param  array<string, RecordType>  $types
     * @param  array<string, Person>  $people
     * @param  array<string, Team>  $teams
     * @return array<string, Table>
     */
    private function tables(array $list, array $types, array $people, array $teams): array
    {
        $tables = [];
        $builder = new TableBuilder($this, Names::none($types, $people, $teams));
        foreach ($list as $i => $t) {
            /** @var array{key: string, title: string, inputs: non-empty-list<array<string, mixed>>, outputs: non-empty-list<array<string, mixed>>, rows: list<array{if: list<mixed>, then: list<mixed>}>} $t the schema has seen to it */
            $table = $builder->table($t, '/tables/'.$i);
            if ($this->isNew('/tables/'.$i, $t['key'], $tables, 'a table')) {
                $tables[$table->key] = $table;
            }
        }

        return $tables;
    }

    /**
     * @param  list<array<string, mixed>>  $list
     * @param  array<string, RecordType>  $types
     * @param  array<string, Person>  $people
     * @param  array<string, Team>  $teams
     * @param  array<string, Table>  $tables
     * @return array<string, Rule>
     */
    private function rules(array $list, array $types, array $people, array $teams, array $tables): array
    {
        $rules = [];
        foreach ($list as $i => $r) {
            $builder = new RuleBuilder($this, fn (RecordType $t): Names => Names::ofRecord($t, $types, $people, $teams, $tables), $types, $people, $teams);
            $rule = $builder->rule($r, '/rules/'.$i);
            if ($this->isNew('/rules/'.$i, $r['key'], $rules, 'a rule') && $rule !== null) {
                $rules[$rule->key] = $rule;
                $names = $builder->names();
                if ($names !== null) {
                    $this->names[$rule->key] = $names;
                }
            }
        }

        return $rules;
    }

    /**
     * @param  list<array<string, mixed>>  $list
     * @param  \Closure(RecordType): Names  $namesOf
     * @param  array<string, RecordType>  $types
     * @return array<string, Guard>
     */
    private function guards(array $list, \Closure $namesOf, array $types): array
    {
        $guards = [];
        foreach ($list as $i => $g) {
            $guard = (new GuardBuilder($this, $namesOf, $types))->guard($g, '/guards/'.$i);
            if ($this->isNew('/guards/'.$i, $g['key'], $guards, 'a guard') && $guard !== null) {
                $guards[$guard->key] = $guard;
            }
        }

        return $guards;
    }

    /**
     * The types that a part is on; what is not there is an error.
     *
     * @param  string|list<string>  $on
     * @param  array<string, RecordType>  $types
     * @return list<RecordType>
     */
    public function typesOf(string|array $on, string $path, array $types): array
    {
        $found = [];
        foreach ((array) $on as $i => $key) {
            if (isset($types[$key])) {
                $found[] = $types[$key];
            } else {
                $this->error($path.(is_array($on) ? '/'.$i : ''), sprintf('There is no type "%s".', $key));
            }
        }

        return $found;
    }

    /** The field that a scalar of the tree names. */
    public function fieldOf(RecordType $type, string $key, string $path, bool $writes = false): ?Field
    {
        $field = $type->fields[$key] ?? null;
        if ($field === null) {
            $near = Nearest::to($key, array_map(strval(...), array_keys($type->fields)));
            $this->error($path, sprintf('%s has no field "%s"%s', $type->title, $key, $near === null ? '.' : '; did you mean "'.$near.'"?'));
        } else {
            $this->mention($path, $field, null, $writes);
        }

        return $field;
    }

    public function checkYesNo(string $path, Formula $formula, Names $names): void
    {
        $this->take($path, FormulaCheck::condition($formula, $names));
    }
}
