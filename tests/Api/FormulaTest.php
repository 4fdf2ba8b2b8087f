<?php

declare(strict_types=1);

namespace Sorvel\Tests\Api;

use PHPUnit\Framework\TestCase;
use Sorvel\Tests\DemoDatabase;

/** What helps while a formula is written. */
final class FormulaTest extends TestCase
{
    private static Client $client;

    public static function setUpBeforeClass(): void
    {
        DemoDatabase::restore();
        self::$client = Client::as('ines');
    }

    public function test_a_condition_goes_to_lines_and_back(): void
    {
        $read = self::$client->call('POST', '/api/formulas/lines', ['formula' => 'state != "closed" and (impact = null or vessel.in_service)'])->json();
        self::assertSame(['all', 'any'], [$read['lines']['join'], $read['lines']['parts'][1]['join']]);
        self::assertSame($read['formula'], self::$client->call('POST', '/api/formulas/lines', ['lines' => $read['lines']])->json()['formula']);
        $plain = self::$client->call('POST', '/api/formulas/lines', ['formula' => 'if a then b else c'])->json();
        self::assertSame([null, true], [$plain['lines'], is_string($plain['why'])]);
        foreach ([['formula' => 'state ='], ['lines' => ['of' => 'a', 'test' => 'like', 'values' => ['1']]], ['lines' => ['join' => 'all', 'parts' => []]], ['lines' => 'all'], []] as $body) {
            self::assertSame(422, self::$client->call('POST', '/api/formulas/lines', $body)->status, (string) json_encode($body));
        }
    }

    public function test_a_text_goes_to_parts_and_back(): void
    {
        $read = self::$client->call('POST', '/api/formulas/text', ['formula' => '"At " + title'])->json();
        self::assertSame(['At ', 'title'], [$read['parts'][0]['text'], $read['parts'][1]['of']]);
        self::assertSame('"At " + title', self::$client->call('POST', '/api/formulas/text', ['parts' => $read['parts']])->json()['formula']);
        self::assertNull(self::$client->call('POST', '/api/formulas/text', ['formula' => '1 + 2'])->json()['parts']);
        foreach ([['parts' => [['of' => 'a +']]], ['parts' => [['nothing' => 1]]], ['parts' => ['a']], ['formula' => '"']] as $body) {
            self::assertSame(422, self::$client->call('POST', '/api/formulas/text', $body)->status, (string) json_encode($body));
        }
    }

    public function test_formulas_are_probed_where_the_rule_looks(): void
    {
        $probe = fn (array $body): array => self::$client->call('POST', '/api/formulas/probe', ['sample' => 'sailing_fault_goes_to_the_chief', 'step' => 0, ...$body])->json()['probes'];
        [$vessel, $chief, $assignee, $wrong] = $probe(['rule' => 'own_fault', 'formulas' => ['vessel', 'vessel.superintendent', 'assignee', 'vessel.']]);
        self::assertSame(['a vessel', 'fault.vessel', true, 'V1'], array_values($vessel));
        self::assertSame(['a person', 'vessel.superintendent', true, 'ines'], array_values($chief));
        self::assertNull($assignee['value'], 'before the rule has looked');
        self::assertSame([null, null, false, null], array_values($wrong));
        // the rule as it is being typed, with a look-up that is not saved
        $tree = self::$client->part('rules', 'own_fault')['tree'];
        $tree['look_ups'][] = ['name' => 'half', 'value' => 'hours_down / 2'];
        self::assertSame(['a number', null, true, 3], array_values($probe(['rule' => 'own_fault', 'tree' => $tree, 'formulas' => ['half']])[0]));
        // a rule on another type, and a type without a rule
        self::assertFalse($probe(['rule' => 'score_proposal', 'formulas' => ['score']])[0]['known']);
        self::assertSame('ines', $probe(['on' => 'fault', 'formulas' => ['assignee']])[0]['value'], 'as the step leaves it');
        self::assertFalse($probe(['on' => 'proposal', 'formulas' => ['score']])[0]['known']);
        foreach ([['rule' => 'nothing'], ['on' => 'nothing']] as $body) {
            self::assertSame(404, self::$client->call('POST', '/api/formulas/probe', $body + ['formulas' => []])->status);
        }
        self::assertSame(422, self::$client->call('POST', '/api/formulas/probe', ['rule' => 'own_fault', 'formulas' => array_fill(0, 300, 'a')])->status);
    }
}
