<?php

declare(strict_types=1);

namespace Sorvel\Core\Tests\Finding;

use PHPUnit\Framework\TestCase;
use Sorvel\Core\Finding\Rename;
use Sorvel\Core\Format\InvalidInput;
use Sorvel\Core\Format\RulebookBuilder;
use Sorvel\Core\Tests\Desks;

final class RenameTest extends TestCase
{
    public function test_a_field_is_renamed_wherever_it_is_meant_and_nowhere_else(): void
    {
        $tree = Desks::tree([
            ['key' => 'r', 'title' => 'R', 'on' => 'job', 'starts' => ['created', ['changed' => ['points', 'sure']]],
                'only_if' => 'points  > 2 and /* points */ changed("points") and note != "points" and record.points = was.points',
                'look_ups' => [['name' => 'twice', 'value' => 'for points in [1] return points + record.points', 'none' => ['use' => '[points]']]],
                'checks' => [['of' => 'points'], ['of' => 'score_of(points)']],
                'changes' => [['set' => 'points'], ['set' => 'other']],
                'rows' => [['if' => ['> other', '-'], 'then' => ['points + 1', '{points: other}.points + points']]]],
        ], [
            ['key' => 'score_of', 'title' => 'S', 'inputs' => [['key' => 'points', 'field' => 'job.points']], 'outputs' => [['key' => 'o']], 'rows' => [['if' => ['> points - 1'], 'then' => ['points']]]],
        ]);
        $renamed = (new Rename('job', 'points', null, 'merit'))->inRulebook($tree);
        $rule = $renamed['rules'][0];
        self::assertSame('merit  > 2 and /* points */ changed("merit") and note != "points" and record.merit = was.merit', $rule['only_if']);
        self::assertSame(['created', ['changed' => ['merit', 'sure']]], $rule['starts']);
        self::assertSame(['name' => 'twice', 'value' => 'for points in [1] return points + record.merit', 'none' => ['use' => '[merit]']], $rule['look_ups'][0]);
        self::assertSame([['of' => 'merit'], ['of' => 'score_of(merit)']], $rule['checks']);
        self::assertSame([['set' => 'merit'], ['set' => 'other']], $rule['changes']);
        self::assertSame(['merit + 1', '{points: other}.points + merit'], $rule['rows'][0]['then']);
        self::assertSame('job.merit', $renamed['tables'][0]['inputs'][0]['field']);
        self::assertSame(['> points - 1', 'points'], [$renamed['tables'][0]['rows'][0]['if'][0], $renamed['tables'][0]['rows'][0]['then'][0]], 'an input has its own name');
        RulebookBuilder::build($renamed);
    }

    public function test_a_field_over_a_reference_is_renamed_and_its_namesake_is_not(): void
    {
        $tree = Desks::tree([Desks::rule('r', ['created'], [['set' => 'note']], ['ship.name + title'])]);
        $tree['types'][0]['fields'][] = ['key' => 'title', 'label' => 'Title', 'type' => 'text'];
        $tree['rules'][0]['only_if'] = 'ship.title != title';
        $renamed = (new Rename('ship', 'title', null, 'rank'))->inRulebook($tree);
        self::assertSame('ship.rank != title', $renamed['rules'][0]['only_if']);
        $renamed = (new Rename('ship', 'name', null, 'called'))->inRulebook($tree);
        self::assertSame('ship.called + title', $renamed['rules'][0]['rows'][0]['then'][0]);
        self::assertSame('called', $renamed['types'][0]['name_field']);
    }

    public function test_an_option_is_renamed_where_it_is_held_against_its_field(): void
    {
        $tree = Desks::tree([
            ['key' => 'r', 'title' => 'R', 'on' => 'job', 'starts' => [['changed' => ['level'], 'from' => '"low", not("high")', 'to' => '!= "low"']],
                'only_if' => 'level = "low" and note != "low" and level in ("low", "mid")',
                'checks' => [['of' => 'level'], ['of' => 'title']],
                'changes' => [['set' => 'level'], ['set' => 'note']],
                'rows' => [['if' => ['"low", "mid"', '"low"'], 'then' => ['if sure then "low" else "mid"', '"low"']]]],
        ], [
            ['key' => 'worth', 'title' => 'W', 'inputs' => [['key' => 'in', 'field' => 'job.level']], 'outputs' => [['key' => 'o', 'field' => 'job.level', 'values' => ['high', 'low']]], 'hit' => 'priority', 'rows' => [['if' => ['"low"'], 'then' => ['"low"']]]],
        ]);
        $renamed = (new Rename('job', 'level', 'low', 'calm'))->inRulebook($tree);
        $rule = $renamed['rules'][0];
        self::assertSame('level = "calm" and note != "low" and level in ("calm", "mid")', $rule['only_if']);
        self::assertSame(['"calm", not("high")', '!= "calm"'], [$rule['starts'][0]['from'], $rule['starts'][0]['to']]);
        self::assertSame(['if' => ['"calm", "mid"', '"low"'], 'then' => ['if sure then "calm" else "mid"', '"low"']], $rule['rows'][0]);
        self::assertSame(['high', 'calm'], $renamed['tables'][0]['outputs'][0]['values']);
        self::assertSame(['if' => ['"calm"'], 'then' => ['"calm"']], $renamed['tables'][0]['rows'][0]);
        self::assertSame('calm', $renamed['types'][1]['fields'][2]['options'][0]['key']);
    }

    public function test_types_that_a_rule_runs_on_together_go_along(): void
    {
        $tree = Desks::tree([['on' => ['job', 'task']] + Desks::rule('r', ['created'], [['set' => 'note']], ['title + ship.name']), Desks::rule('s', ['created'], [['set' => 'note']], ['code'])]);
        $tree['types'][] = ['key' => 'task', 'short' => 'T'] + $tree['types'][1];
        $rename = (new Rename('job', 'title', null, 'heading'))->withLinked($tree);
        self::assertSame(['task'], $rename->with);
        $renamed = $rename->inRulebook($tree);
        self::assertSame('heading + ship.name', $renamed['rules'][0]['rows'][0]['then'][0]);
        self::assertSame(['heading', 'heading'], [$renamed['types'][1]['fields'][0]['key'], $renamed['types'][2]['fields'][0]['key']]);
        self::assertSame([], (new Rename('job', 'code', null, 'mark'))->withLinked($tree)->with, 'the second rule runs on jobs alone');
    }

    public function test_a_state_is_renamed_with_its_moves(): void
    {
        $tree = Desks::tree([Desks::rule('r', ['created'], [['set' => 'state']], ['"doing"'])]);
        $renamed = (new Rename('job', 'state', 'doing', 'at_work'))->inRulebook($tree);
        self::assertSame('"at_work"', $renamed['rules'][0]['rows'][0]['then'][0]);
        self::assertSame([['from' => 'new', 'to' => ['at_work']], ['from' => 'at_work', 'to' => ['done', 'new']]], $renamed['types'][1]['moves']);
    }

    public function test_samples_follow(): void
    {
        $types = RulebookBuilder::build(Desks::tree())->types;
        $sample = ['key' => 's', 'title' => 'S', 'proves' => 'act', 'given' => ['ship' => [['id' => 'S1', 'name' => 'level']], 'job' => [['id' => 'J9', 'level' => 'low']]], 'steps' => [
            ['create' => 'job', 'as' => 'J1', 'with' => ['level' => 'low', 'title' => 'low'], 'expect' => ['J1' => ['level' => ['test' => '"low", "mid"'], 'note' => 'low'], 'acted' => ['level']]],
            ['change' => 'J9', 'with' => ['level' => 'low'], 'expect' => ['J9' => ['level' => 'low']]],
        ]];
        $option = (new Rename('job', 'level', 'low', 'calm'))->inSample($sample, $types);
        self::assertSame(['level' => 'calm', 'title' => 'low'], $option['steps'][0]['with']);
        self::assertSame(['level' => ['test' => '"calm", "mid"'], 'note' => 'low'], $option['steps'][0]['expect']['J1']);
        self::assertSame(['level' => 'calm'], $option['steps'][1]['expect']['J9']);
        $field = (new Rename('job', 'level', null, 'rank'))->inSample($sample, $types);
        self::assertSame([['id' => 'J9', 'rank' => 'low']], $field['given']['job']);
        self::assertSame([['id' => 'S1', 'name' => 'level']], $field['given']['ship']);
        self::assertSame(['rank', 'title'], array_keys($field['steps'][0]['with']));
        self::assertSame(['level'], $field['steps'][0]['expect']['acted']);
    }

    public function test_a_key_that_cannot_be_is_refused(): void
    {
        $tree = Desks::tree([Desks::rule('r', ['created'], [['set' => 'note']], ['string join(for x in ["a"] return x + title)'])]);
        $says = function (string $field, ?string $option, string $to) use ($tree): string {
            try {
                (new Rename('job', $field, $option, $to))->inRulebook($tree);
            } catch (InvalidInput $invalid) {
                return $invalid->errors[0]->message;
            }
            self::fail('It was not refused.');
        };
        self::assertStringContainsString('already a field', $says('title', null, 'points'));
        self::assertStringContainsString('small letters', $says('title', null, 'Über'));
        self::assertStringContainsString('built-in name', $says('title', null, 'assignee'));
        self::assertStringContainsString('already an option', $says('level', 'low', 'high'));
        self::assertStringContainsString('already means something else', $says('title', null, 'x'));
        self::assertStringContainsString('built in', $says('state', null, 'standing'));
        self::assertStringContainsString('no option', $says('level', 'lowest', 'x'));
        self::assertStringContainsString('no field', $says('colour', null, 'x'));
    }
}
