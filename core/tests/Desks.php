<?php

declare(strict_types=1);

namespace Sorvel\Core\Tests;

use Sorvel\Core\Engine\Engine;
use Sorvel\Core\Engine\Event;
use Sorvel\Core\Engine\Outcome;
use Sorvel\Core\Format\InvalidInput;
use Sorvel\Core\Format\RulebookBuilder;
use Sorvel\Core\Format\SchemaCheck;
use Sorvel\Core\Model\InMemoryStore;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\Rulebook;

/** A small desk for tests: one ticket type `job` with fields of each kind, one register `ship`. */
final class Desks
{
    /**
     * @param  list<array<string, mixed>>  $rules
     * @param  list<array<string, mixed>>  $tables
     * @return array<string, mixed>
     */
    public static function tree(array $rules = [], array $tables = []): array
    {
        return [
            'sorvel' => 1, 'desk' => 'small', 'title' => 'Small', 'timezone' => 'UTC',
            'people' => [['key' => 'ann', 'name' => 'Ann'], ['key' => 'bo', 'name' => 'Bo'], ['key' => 'gone', 'name' => 'Gone', 'active' => false]],
            'teams' => [['key' => 'crew', 'name' => 'Crew', 'members' => ['ann', 'bo']]],
            'types' => [
                ['key' => 'ship', 'title' => 'Ship', 'kind' => 'register', 'name_field' => 'name', 'fields' => [
                    ['key' => 'name', 'label' => 'Name', 'type' => 'text'],
                    ['key' => 'chief', 'label' => 'Chief', 'type' => 'person'],
                ]],
                ['key' => 'job', 'title' => 'Job', 'kind' => 'ticket', 'short' => 'J',
                    'states' => [['key' => 'new', 'label' => 'New', 'open' => true], ['key' => 'doing', 'label' => 'Doing', 'open' => true], ['key' => 'done', 'label' => 'Done', 'open' => false]],
                    'moves' => [['from' => 'new', 'to' => ['doing']], ['from' => 'doing', 'to' => ['done', 'new']]],
                    'fields' => [
                        ['key' => 'title', 'label' => 'Title', 'type' => 'text'],
                        ['key' => 'ship', 'label' => 'Ship', 'type' => 'reference', 'to' => 'ship'],
                        ['key' => 'level', 'label' => 'Level', 'type' => 'choice', 'options' => [['key' => 'low', 'label' => 'Low'], ['key' => 'mid', 'label' => 'Mid'], ['key' => 'high', 'label' => 'High'], ['key' => 'old', 'label' => 'Old', 'active' => false]]],
                        ['key' => 'points', 'label' => 'Points', 'type' => 'number', 'min' => 0, 'max' => 100, 'decimals' => 1],
                        ['key' => 'other', 'label' => 'Other', 'type' => 'number'],
                        ['key' => 'share', 'label' => 'Share', 'type' => 'percent'],
                        ['key' => 'sure', 'label' => 'Sure', 'type' => 'yes_no'],
                        ['key' => 'note', 'label' => 'Note', 'type' => 'long_text'],
                        ['key' => 'code', 'label' => 'Code', 'type' => 'text', 'pattern' => '[A-Z]{2}-[0-9]+'],
                    ]],
            ],
            'tables' => $tables, 'rules' => $rules,
        ];
    }

    /**
     * A rule on `job` in one line; `on` what it starts, `do` the changes, one row without checks unless given.
     *
     * @param  list<mixed>  $starts
     * @param  list<array<string, string>>  $changes
     * @param  list<mixed>  $then
     * @param  array<string, mixed>  $more
     * @return array<string, mixed>
     */
    public static function rule(string $key, array $starts, array $changes, array $then, array $more = []): array
    {
        return ['key' => $key, 'title' => $key, 'on' => 'job', 'starts' => $starts, 'changes' => $changes, 'rows' => [['if' => [], 'then' => $then]], ...$more];
    }

    /**
     * @param  list<array<string, mixed>>  $rules
     * @param  list<array<string, mixed>>  $tables
     */
    public static function rulebook(array $rules = [], array $tables = []): Rulebook
    {
        $tree = self::tree($rules, $tables);
        $errors = SchemaCheck::errors('rulebook', $tree);
        if ($errors !== []) {
            throw new InvalidInput($errors);
        }

        return RulebookBuilder::build($tree);
    }

    /**
     * @param  list<array<string, mixed>>  $rules
     * @param  array<string, mixed>  $values
     * @param  list<array<string, mixed>>  $tables
     */
    public static function create(array $rules, array $values, array $tables = []): Outcome
    {
        $store = new InMemoryStore;
        $store->save(new Record('S1', 'ship', ['name' => 'Alder', 'chief' => 'ann']));

        return (new Engine(self::rulebook($rules, $tables)))->handle(Event::created('job', 'J-1', $values, 'bo', '2027-01-04T09:00:00'), $store);
    }

    /**
     * @param  list<array<string, mixed>>  $rules
     * @param  array<string, mixed>  $before
     * @param  array<string, mixed>  $values
     */
    public static function change(array $rules, array $before, array $values): Outcome
    {
        $store = new InMemoryStore;
        $store->save(new Record('S1', 'ship', ['name' => 'Alder', 'chief' => 'ann']));
        $store->save(new Record('J-1', 'job', ['number' => 'J-1', 'state' => 'new', ...$before]));

        return (new Engine(self::rulebook($rules)))->handle(Event::changed('job', 'J-1', $values, 'bo', '2027-01-04T09:00:00'), $store);
    }
}
