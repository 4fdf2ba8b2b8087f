<?php

declare(strict_types=1);

namespace Sorvel\Core\Tests\Format;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Sorvel\Core\Format\InvalidInput;
use Sorvel\Core\Format\LineMap;
use Sorvel\Core\Format\RulebookReader;
use Sorvel\Core\Format\SamplesReader;
use Sorvel\Core\Format\Writer;
use Sorvel\Core\Tests\Desks;
use Symfony\Component\Yaml\Yaml;

final class ReaderTest extends TestCase
{
    private const DEMO = __DIR__.'/../../../demo';

    /** @return iterable<string, array{string, string, string, int, string}> */
    public static function mistakes(): iterable
    {
        $replace = fn (string $what, string $with, string $path, int $line, string $says): array => [$what, $with, $path, $line, $says];
        yield 'an unknown key' => $replace('    kind: ticket', "    kind: ticket\n    colour: blue", '/types/1/colour', 17, 'not known');
        yield 'a mistyped key' => $replace('label: Impact', 'lable: Impact', '/types/1/fields/1/lable', 21, 'did you mean "label"');
        yield 'a wrong type' => $replace('title: Small', 'title: [1]', '/title', 3, 'Expected text');
        yield 'a missing key' => $replace('    title: Ship', '    name_field: name', '/types/0', 7, '"title" is missing');
        yield 'an unknown option' => $replace("'\"high\"'", "'\"hihg\"'", '/rules/0/rows/0/then/0', 31, 'did you mean "high"');
        yield 'an unknown person' => $replace("'\"ann\"'", "'\"anna\"'", '/rules/0/rows/0/then/1', 31, 'did you mean "ann"');
        yield 'a formula that does not parse' => $replace("only_if: 'impact != null'", "only_if: 'impact !='", '/rules/0/only_if', 27, 'Expected a value');
        yield 'an unknown name' => $replace("only_if: 'impact != null'", "only_if: 'inpact != null'", '/rules/0/only_if', 27, 'did you mean "impact"');
        yield 'a path into nothing' => $replace("only_if: 'impact != null'", "only_if: 'ship.chef != null'", '/rules/0/only_if', 27, 'did you mean "chief"');
        yield 'an unknown type' => $replace('on: job', 'on: jobs', '/rules/0/on', 25, 'no type "jobs"');
        yield 'an unknown field' => $replace('{set: impact}', '{set: impakt}', '/rules/0/changes/0/set', 29, 'did you mean "impact"');
        yield 'a reference to nothing' => $replace('to: ship', 'to: shop', '/types/1/fields/0/to', 20, 'no type "shop"');
        yield 'too few cells' => $replace("if: ['-'],", 'if: [],', '/rules/0/rows/0/if', 31, '0 cells for 1 checks');
        yield 'a number compared with a text' => $replace("only_if: 'impact != null'", "only_if: 'hours = \"a\"'", '/rules/0/only_if', 27, 'compared');
        yield 'a condition that is always true' => $replace("only_if: 'impact != null'", "only_if: '1 < 2'", '/rules/0/only_if', 27, 'always yes');
        yield 'something compared with itself' => $replace("only_if: 'impact != null'", "only_if: 'hours = hours'", '/rules/0/only_if', 27, 'always yes');
        yield 'a part that is always false' => $replace("only_if: 'impact != null'", "only_if: 'impact != null or false'", '/rules/0/only_if', 27, 'always no');
        yield 'an else never reached' => $replace("'\"high\"'", "'if true then \"high\" else \"low\"'", '/rules/0/rows/0/then/0', 31, 'never reached');
        yield 'an option of another field' => $replace("only_if: 'impact != null'", "only_if: 'impact = state'", '/rules/0/only_if', 27, 'never be equal');
        yield 'a text added to a number' => $replace("only_if: 'impact != null'", "only_if: 'hours + impact = null'", '/rules/0/only_if', 27, 'string(…)');
        yield 'a path into a number' => $replace("only_if: 'impact != null'", "only_if: 'hours.minutes = 1'", '/rules/0/only_if', 27, 'leads nowhere');
        yield 'not a condition' => $replace("only_if: 'impact != null'", "only_if: 'hours + 1'", '/rules/0/only_if', 27, 'must be a yes/no');
        yield 'a function with too few arguments' => $replace("only_if: 'impact != null'", "only_if: 'contains(\"a\")'", '/rules/0/only_if', 27, 'needs 2 arguments');
    }

    #[DataProvider('mistakes')]
    public function test_a_mistake_is_told_with_file_line_and_path(string $what, string $with, string $path, int $line, string $says): void
    {
        $text = str_replace($what, $with, self::text());
        self::assertNotSame(self::text(), $text, 'the mistake is made');
        try {
            RulebookReader::read($text, 'book.yaml');
            self::fail('The mistake was not found.');
        } catch (InvalidInput $invalid) {
            $found = array_values(array_filter($invalid->errors, fn ($e): bool => $e->path === $path));
            self::assertNotSame([], $found, $invalid->getMessage());
            self::assertStringContainsString($says, $found[0]->message);
            self::assertSame(['book.yaml', $line], [$found[0]->file, $found[0]->line], $invalid->getMessage());
        }
    }

    public function test_a_look_up_is_of_the_type_that_its_formula_has(): void
    {
        $rule = fn (string $cell, string $check): array => Desks::tree([Desks::rule('a', ['created'], [['set' => 'assignee']], [], ['look_ups' => [['name' => 'chief', 'value' => 'ship.chief']], 'checks' => [['of' => 'chief']], 'rows' => [['if' => [$check], 'then' => [$cell]]]])]);
        foreach (['did you mean "team"' => ['chief.tema.key = null', '-'], 'did you mean "ann"' => ['chief', '"amn"'], 'has no parts' => ['chief.name.first', '-']] as $says => [$cell, $check]) {
            try {
                RulebookReader::read(Yaml::dump($rule($cell, $check), 6), 'book.yaml');
                self::fail($says.' was not said.');
            } catch (InvalidInput $invalid) {
                self::assertStringContainsString($says, $invalid->getMessage());
            }
        }
        self::assertCount(1, RulebookReader::read(Yaml::dump($rule('chief', '!= null, "ann"'), 6), 'book.yaml')->rules);
    }

    public function test_malformed_yaml_names_its_line(): void
    {
        $this->expectException(InvalidInput::class);
        $this->expectExceptionMessageMatches('~^book\.yaml:4: .*not readable YAML~');
        RulebookReader::read("sorvel: 1\ndesk: small\ntitle: Small\n  types: [\nrules: []\n", 'book.yaml');
    }

    /** @return iterable<string, array{array<string, mixed>, string}> */
    public static function notYet(): iterable
    {
        $rule = fn (array $more): array => Desks::tree([[...Desks::rule('a', ['created'], [['set' => 'points']], ['1']), ...$more]]);
        yield 'repeat' => [$rule(['repeat' => 'once']), '"repeat: once" is not supported yet'];
        yield 'start deleted' => [$rule(['starts' => ['deleted']]), '"deleted" is not supported yet'];
        foreach ([['received' => 'message'], ['at' => '0 7 * * *'], ['by_hand' => []], ['related' => 'ship', 'changed' => ['name']], ['answered' => 'x']] as $start) {
            yield 'start '.array_key_first($start) => [$rule(['starts' => [$start]]), 'The start "'.array_key_first($start).'" is not supported yet'];
        }
        yield 'look-up first' => [$rule(['look_ups' => [['name' => 'x', 'first' => 'ship']]]), '"first" is not supported yet'];
        yield 'look-up all' => [$rule(['look_ups' => [['name' => 'x', 'all' => 'ship']]]), '"all" is not supported yet'];
        foreach (['remove' => 'tags', 'raise' => 'points', 'prefix' => 'title', 'suffix' => 'title', 'assign' => 'take_turns', 'note' => 'staff', 'message' => 'mail', 'notify' => 'x', 'call' => 'x', 'create' => 'job', 'refuse' => 'save'] as $kind => $value) {
            yield 'change '.$kind => [$rule(['changes' => [[$kind => $value]]]), 'The change "'.$kind.'" is not supported yet'];
        }
        yield 'change of others' => [$rule(['changes' => [['set' => 'points', 'of' => 'x']]]), 'Changing other records ("of") is not supported yet'];
        yield 'a function from outside' => [$rule(['only_if' => '(function(a) external {java: {}})(1)']), 'does not reach functions outside'];
    }

    /** @param  array<string, mixed>  $tree */
    #[DataProvider('notYet')]
    public function test_what_is_still_to_come_is_refused_by_name(array $tree, string $says): void
    {
        $this->expectException(InvalidInput::class);
        $this->expectExceptionMessage($says);
        RulebookReader::read(Yaml::dump($tree, 6), 'book.yaml');
    }

    public function test_sample_steps_and_expectations_to_come_are_refused_by_name(): void
    {
        $sample = fn (string $step): string => "sorvel_samples: 1\ndesk: small\nsamples:\n  - key: a\n    title: A\n    proves: act\n    steps:\n      - ".$step."\n";
        foreach (['{delete: F1}' => '"delete"', '{by_hand: rule, on: F1}' => '"by_hand"', '{answer: {call: x}}' => '"answer"', '{receive: {subject: x}}' => '"receive"', '{create: job, as: F1, expect: {messages: []}}' => '"messages"', '{create: job, as: F1, expect: {unchanged: [F1]}}' => '"unchanged"'] as $step => $says) {
            try {
                SamplesReader::read($sample($step), 's.yaml');
                self::fail($step.' was taken.');
            } catch (InvalidInput $invalid) {
                self::assertStringContainsString($says.' is not supported yet', $invalid->getMessage());
                self::assertStringStartsWith('s.yaml:8: ', $invalid->getMessage());
            }
        }
    }

    public function test_json_reads_as_yaml_does(): void
    {
        self::assertSame('small', RulebookReader::read((string) json_encode(Desks::tree(), JSON_PRETTY_PRINT), 'book.json')->desk);
    }

    public function test_export_then_import_gives_the_same_bytes(): void
    {
        $tree = RulebookReader::tree((string) file_get_contents(self::DEMO.'/rulebook.yaml'), 'demo');
        $once = Writer::rulebook($tree);
        self::assertSame($once, Writer::rulebook(RulebookReader::tree($once, 'again')));
        foreach (glob(self::DEMO.'/samples/*.yaml') ?: [] as $file) {
            $samples = ['sorvel_samples' => 1, 'desk' => 'tolvane', 'samples' => SamplesReader::trees((string) file_get_contents($file), $file)];
            $once = Writer::samples($samples);
            self::assertSame($once, Writer::samples(['sorvel_samples' => 1, 'desk' => 'tolvane', 'samples' => SamplesReader::trees($once, 'again')]));
        }
    }

    public function test_lines_are_found_in_block_and_flow(): void
    {
        $map = LineMap::of("a: 1\nb:\n  # a comment\n  - c: |\n      text: not a key\n      more\n    d: {e: [1,\n      2], f: 'x: y'}\n  - \"quoted\n    on two lines\"\n\"k k\": 5\n");
        foreach (['/a' => 1, '/b' => 2, '/b/0/c' => 4, '/b/0/d' => 7, '/b/0/d/e/1' => 8, '/b/0/d/f' => 8, '/b/1' => 9, '/k k' => 11, '/b/0/nothing' => 4] as $path => $line) {
            self::assertSame($line, $map->line($path), $path);
        }
    }

    private static function text(): string
    {
        return <<<'YAML'
            sorvel: 1
            desk: small
            title: Small
            people: [{key: ann, name: Ann}]
            types:
              # the register
              - key: ship
                title: Ship
                kind: register
                fields:
                  - {key: name, label: Name, type: text}
                  - {key: chief, label: Chief, type: person}
              - key: job
                title: Job
                short: J
                kind: ticket
                states: [{key: new, label: New, open: true}]
                # its fields
                fields:
                  - {key: ship, label: Ship, type: reference, to: ship}
                  - {key: impact, label: Impact, type: choice, options: [{key: low, label: Low}, {key: high, label: High}]}
                  - {key: hours, label: Hours, type: number}
            rules:
              - key: rank
                on: job
                title: Rank
                only_if: 'impact != null'
                starts: [created]
                changes: [{set: impact}, {set: assignee}]
                checks: [{of: hours}]
                rows: [{if: ['-'], then: ['"high"', '"ann"']}]
            YAML;
    }
}
