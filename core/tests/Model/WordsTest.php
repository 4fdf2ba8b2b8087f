<?php

declare(strict_types=1);

namespace Sorvel\Core\Tests\Model;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Sorvel\Core\Format\RulebookBuilder;
use Sorvel\Core\Model\InMemoryStore;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\Viewer;
use Sorvel\Core\Tests\Desks;

/** Values as a cell of a sheet holds them, and back: export, import, paste and a change of type all go by this. */
final class WordsTest extends TestCase
{
    private const FIELDS = [
        ['key' => 'due', 'label' => 'Due', 'type' => 'date'],
        ['key' => 'at', 'label' => 'At', 'type' => 'date_time'],
        ['key' => 'took', 'label' => 'Took', 'type' => 'duration'],
        ['key' => 'decks', 'label' => 'Decks', 'type' => 'choices', 'options' => [['key' => 'car', 'label' => 'Car deck'], ['key' => 'sun', 'label' => 'Sun deck']]],
        ['key' => 'spot', 'label' => 'Spot', 'type' => 'two_step_choice', 'options' => [['key' => 'engine', 'label' => 'Engine room', 'children' => [['key' => 'pump', 'label' => 'Pump']]], ['key' => 'deck', 'label' => 'Deck', 'children' => [['key' => 'deck_pump', 'label' => 'Pump']]]]],
        ['key' => 'crew', 'label' => 'Crew', 'type' => 'people'],
        ['key' => 'ships', 'label' => 'Ships', 'type' => 'references', 'to' => 'ship'],
        ['key' => 'story', 'label' => 'Story', 'type' => 'rich_text'],
    ];

    /** @return iterable<string, array{string, mixed, string, list<string>}> field, stored, in words, other words for it */
    public static function values(): iterable
    {
        yield 'text' => ['title', 'Bow door', 'Bow door', []];
        yield 'long text' => ['note', "two\nlines", "two\nlines", []];
        yield 'number' => ['points', 12, '12', ['12.0', '+12']];
        yield 'percent' => ['share', 40, '40', ['40 %', '40%']];
        yield 'yes' => ['sure', true, 'yes', ['TRUE', '1', 'Y']];
        yield 'no' => ['sure', false, 'no', ['false', '0']];
        yield 'date' => ['due', '2027-03-04', '2027-03-04', []];
        yield 'moment, on the desk’s clock' => ['at', '2027-07-04T08:00:00Z', '2027-07-04 09:00', ['2027-07-04T09:00:00', '2027-07-04T08:00:00Z']];
        yield 'midnight' => ['at', '2027-01-04T00:00:00Z', '2027-01-04 00:00', ['2027-01-04']];
        yield 'duration' => ['took', 'PT1H30M', 'PT1H30M', ['PT90M']];
        yield 'choice' => ['level', 'low', 'Low', ['low', 'LOW']];
        yield 'choices' => ['decks', ['car', 'sun'], 'Car deck; Sun deck', ['sun; car', "Sun deck\ncar"]];
        yield 'two steps' => ['spot', 'pump', 'Engine room / Pump', ['pump', 'engine room / PUMP']];
        yield 'tags' => ['tags', ['a', 'b'], 'a; b', ['a;b;;a']];
        yield 'person' => ['assignee', 'ann', 'Ann', ['ann', 'ANN@small.example']];
        yield 'people' => ['crew', ['bo', 'ann'], 'Bo; Ann', ['bo;ann']];
        yield 'team' => ['team', 'crew', 'Crew', ['crew']];
        yield 'reference' => ['ship', 'S1', 'Alder (S1)', ['S1', 'alder']];
        yield 'references' => ['ships', ['S2', 'S1'], 'Ebb (S2); Alder (S1)', ['Ebb (S2);S1']];
        yield 'state' => ['state', 'doing', 'Doing', ['doing']];
        yield 'rich text' => ['story', '<p>Stuck <b>half</b></p><p>open</p>', "Stuck half\nopen", []];
    }

    /** @param  list<string>  $others */
    #[DataProvider('values')]
    public function test_values_in_words_and_back(string $key, mixed $stored, string $words, array $others): void
    {
        [$viewer, $fields] = self::desk();
        $field = $fields[$key];

        self::assertSame($words, trim($field->kind->words($stored, $field, $viewer)));
        foreach ([$words, ...$others] as $one) {
            $read = $field->kind->fit($field->kind->read($one, $field, $viewer), $field, $viewer, byRule: false);
            self::assertTrue($key === 'story' ? trim($field->kind->words($read, $field, $viewer)) === $words : Record::same($stored, $read), $one.' is '.json_encode($read));
        }
    }

    /** @return iterable<string, array{string, string, string}> */
    public static function wrong(): iterable
    {
        yield 'no number' => ['points', 'twelve', 'an example is 12.5'];
        yield 'a comma' => ['points', '12,5', 'is not a number'];
        yield 'neither yes nor no' => ['sure', 'perhaps', 'neither yes nor no'];
        yield 'no option' => ['level', 'huge', 'options are: Low'];
        yield 'two options of one label' => ['spot', 'Pump', 'give the key: pump, deck_pump'];
        yield 'nobody' => ['assignee', 'Zed', 'there is no person "Zed"'];
        yield 'no team' => ['team', 'Zed', 'there is no team'];
        yield 'no record' => ['ship', 'Zed', 'there is no ship "Zed"'];
        yield 'two records of one name' => ['ship', 'Twin', 'give the id: S3, S4'];
    }

    #[DataProvider('wrong')]
    public function test_words_that_mean_nothing_say_why(string $key, string $words, string $why): void
    {
        [$viewer, $fields] = self::desk();
        $this->expectException(Misfit::class);
        $this->expectExceptionMessage($why);

        $fields[$key]->kind->read($words, $fields[$key], $viewer);
    }

    /** @return iterable<string, array{string, string, mixed, mixed}> from, to, a value, what it becomes; null when it cannot be kept */
    public static function conversions(): iterable
    {
        yield 'a choice to text is its label' => ['level', 'title', 'low', 'Low'];
        yield 'text to a choice, by label' => ['title', 'level', 'Low', 'low'];
        yield 'text that is no option' => ['title', 'level', 'Lowish', null];
        yield 'text to number' => ['title', 'points', '12.5', '12.5'];
        yield 'number to text' => ['points', 'title', 7, '7'];
        yield 'a number out of bounds' => ['other', 'points', 400, null];
        yield 'rich text loses its marks' => ['story', 'note', '<p>a <b>b</b></p>', 'a b'];
        yield 'text to rich text' => ['note', 'story', 'a < b', '<p>a &lt; b</p>'];
        yield 'one to several' => ['assignee', 'crew', 'ann', ['ann']];
        yield 'several to one, when there is one' => ['crew', 'assignee', ['ann'], 'ann'];
        yield 'several to one' => ['crew', 'assignee', ['ann', 'bo'], null];
        yield 'several to text' => ['crew', 'title', ['ann', 'bo'], 'Ann; Bo'];
        yield 'a name to a reference' => ['title', 'ship', 'Alder', 'S1'];
        yield 'a moment to a date' => ['at', 'due', '2027-07-04T23:30:00Z', '2027-07-05'];
        yield 'a date to a moment' => ['due', 'at', '2027-01-04', '2027-01-04T00:00:00Z'];
        yield 'yes to text' => ['sure', 'title', true, 'yes'];
    }

    #[DataProvider('conversions')]
    public function test_a_value_under_another_type(string $from, string $to, mixed $value, mixed $becomes): void
    {
        [$viewer, $fields] = self::desk();
        try {
            self::assertEquals($becomes, Record::plain((new \Sorvel\Core\Model\Conversion($fields[$from], $fields[$to]))->value($value, $viewer)));
        } catch (Misfit $misfit) {
            self::assertNull($becomes, $misfit->getMessage());
        }
    }

    /** @return array{Viewer, array<string, \Sorvel\Core\Model\Field>} */
    private static function desk(): array
    {
        $tree = Desks::tree();
        $tree['timezone'] = 'Europe/Lisbon';
        $tree['people'][0]['email'] = 'ann@small.example';
        array_push($tree['types'][1]['fields'], ...self::FIELDS);
        $book = RulebookBuilder::build($tree);
        $store = new InMemoryStore;
        foreach (['S1' => 'Alder', 'S2' => 'Ebb', 'S3' => 'Twin', 'S4' => 'Twin'] as $id => $name) {
            $store->save(new Record($id, 'ship', ['name' => $name]));
        }

        return [new Viewer($book, $store), $book->types['job']->fields];
    }
}
