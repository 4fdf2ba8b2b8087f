<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel;

/** Examples of every operator and every built-in function, for the help; a test runs them all. */
final class Examples
{
    /** @return list<array{title: string, formulas: list<string>}> */
    public static function operators(): array
    {
        return [
            ['title' => 'Numbers', 'formulas' => ['1 + 2 * 3', '0.1 + 0.2 = 0.3', '2 ** 10', '-(5 - 8)', '10 / 4']],
            ['title' => 'Texts', 'formulas' => ['"Bow " + "door"', '"Answer by " + string(@"2027-03-04")']],
            ['title' => 'Comparing', 'formulas' => ['3 >= 2', '"a" != "b"', '5 between 1 and 10', '5 in [1..10)', '"soon" in ("soon", "urgent")', '5 in (< 3, > 4)', 'null = null']],
            ['title' => 'Joining conditions', 'formulas' => ['1 < 2 and 2 < 3', '1 > 2 or 2 > 1', 'not(1 > 2)', 'true and null']],
            ['title' => 'Choosing', 'formulas' => ['if 5 > 3 then "late" else "early"']],
            ['title' => 'Dates, times and durations', 'formulas' => ['@"2027-03-04" + @"P1M"', '@"2027-03-04" - @"2027-01-01"', '@"2027-03-04T09:00:00Z" + @"PT90M"', '@"PT36H" * 2', '@"2027-03-04".weekday', '@"2027-03-04" > @"2027-03-01"']],
            ['title' => 'Lists', 'formulas' => ['[3, 1, 2][1]', '[3, 1, 2][-1]', '[3, 1, 2][item > 1]', '[{name: "Ann", age: 30}, {name: "Bo", age: 20}][age > 25].name']],
            ['title' => 'Going over lists', 'formulas' => ['for x in [1, 2, 3] return x * 2', 'for x in 1..3, y in [10, 20] return x * y', 'some x in [1, 2] satisfies x > 1', 'every x in [1, 2] satisfies x > 1', 'for i in 1..5 return if i = 1 then 1 else i * partial[-1]']],
            ['title' => 'Contexts', 'formulas' => ['{a: 1, b: a + 1}', '{first name: "Bo"}.first name']],
            ['title' => 'Ranges', 'formulas' => ['[1..5)', '(> 3)', '[1..5].end']],
            ['title' => 'Functions of one\'s own', 'formulas' => ['(function(a, b) a + b)(1, 2)', 'sort([3, 1, 2], function(x, y) x < y)']],
            ['title' => 'Types', 'formulas' => ['5 instance of number', '[1, 2] instance of list<number>']],
        ];
    }

    /** @return array<string, list<string>> by function */
    public static function functions(): array
    {
        return [
            'abs' => ['abs(-10)', 'abs(@"-P1D")'], 'after' => ['after(10, [1..5])'], 'all' => ['all([true, false])'], 'any' => ['any([true, false])'], 'append' => ['append([1], 2, 3)'],
            'before' => ['before(1, [2..3])'], 'ceiling' => ['ceiling(1.2)'], 'coincides' => ['coincides([1..5], [1..5])'], 'concatenate' => ['concatenate([1], [2, 3])'], 'contains' => ['contains("bow door", "door")'],
            'context' => ['context([{key: "a", value: 1}])'], 'context merge' => ['context merge([{a: 1}, {b: 2}])'], 'context put' => ['context put({a: 1}, "b", 2)'], 'count' => ['count([1, 2, 3])'],
            'date' => ['date("2027-03-04")', 'date(2027, 3, 4)'], 'date and time' => ['date and time("2027-03-04T09:00:00Z")', 'date and time(@"2027-03-04T09:00:00Z", "Europe/Lisbon")'], 'day of week' => ['day of week(@"2027-03-04")'], 'day of year' => ['day of year(@"2027-03-04")'],
            'decimal' => ['decimal(1 / 3, 2)'], 'distinct values' => ['distinct values([1, 2, 1])'], 'duration' => ['duration("P1DT2H")', 'duration("P1Y2M")'], 'during' => ['during(5, [1..10])'], 'ends with' => ['ends with("bow door", "door")'], 'even' => ['even(4)'], 'exp' => ['exp(1)'],
            'finished by' => ['finished by([1..10], 10)'], 'finishes' => ['finishes(10, [1..10])'], 'flatten' => ['flatten([[1, 2], [3]])'], 'floor' => ['floor(1.8)'], 'get entries' => ['get entries({a: 1})'], 'get value' => ['get value({a: 1}, "a")'],
            'includes' => ['includes([1..10], 5)'], 'index of' => ['index of(["a", "b", "a"], "a")'], 'insert before' => ['insert before([1, 3], 2, 2)'], 'is' => ['is(@"09:00:00", @"09:00:00Z")'], 'list contains' => ['list contains(["sailing", "long"], "long")'], 'list replace' => ['list replace([1, 2, 3], 2, 9)'],
            'log' => ['log(10)'], 'lower case' => ['lower case("Bow")'], 'matches' => ['matches("GBX-4", "[A-Z]+-[0-9]+")'], 'max' => ['max(1, 5, 3)'], 'mean' => ['mean([1, 2, 6])'], 'median' => ['median([8, 2, 5])'], 'meets' => ['meets([1..5], [5..10])'], 'met by' => ['met by([5..10], [1..5])'],
            'min' => ['min([3, 1, 2])'], 'mode' => ['mode([6, 3, 6])'], 'modulo' => ['modulo(12, 5)'], 'month of year' => ['month of year(@"2027-03-04")'], 'not' => ['not(true)'], 'now' => ['now()'], 'number' => ['number("1 000,5", " ", ",")'], 'odd' => ['odd(3)'],
            'overlaps' => ['overlaps([1..5], [3..8])'], 'overlaps after' => ['overlaps after([3..8], [1..5])'], 'overlaps before' => ['overlaps before([1..5], [3..8])'], 'plain text' => ['plain text("<p>One</p><p>Two</p>")'], 'product' => ['product([2, 3, 4])'], 'range' => ['range("[1..3]")'],
            'remove' => ['remove([1, 2, 3], 2)'], 'replace' => ['replace("banana", "a", "o")', 'replace("2027-03", "(\\\\d+)-(\\\\d+)", "$2/$1")'], 'reverse' => ['reverse([1, 2, 3])'], 'round down' => ['round down(1.29, 1)'], 'round half down' => ['round half down(2.5, 0)'], 'round half up' => ['round half up(2.5, 0)'], 'round up' => ['round up(1.21, 1)'],
            'sort' => ['sort([3, 1, 2])'], 'split' => ['split("a, b", ", *")'], 'sqrt' => ['sqrt(16)'], 'started by' => ['started by([1..10], 1)'], 'starts' => ['starts(1, [1..10])'], 'starts with' => ['starts with("bow door", "bow")'], 'stddev' => ['stddev([2, 4, 7, 5])'], 'string' => ['string(1.50)', 'string(@"P1D")'],
            'string join' => ['string join(["a", null, "b"], ", ")'], 'string length' => ['string length("héé")'], 'sublist' => ['sublist([1, 2, 3], 2)'], 'substring' => ['substring("foobar", 3, 3)', 'substring("foobar", -2)'], 'substring after' => ['substring after("GBX-4", "-")'], 'substring before' => ['substring before("GBX-4", "-")'],
            'sum' => ['sum([1, 2.5])'], 'tag' => ['tag("GBX 4 / port")'], 'time' => ['time("09:00:00")', 'time(9, 30, 0)'], 'today' => ['today()'], 'union' => ['union([1, 2], [2, 3])'], 'upper case' => ['upper case("bow")'], 'week of year' => ['week of year(@"2027-03-04")'],
            'years and months duration' => ['years and months duration(@"2027-01-01", @"2028-03-01")'],
        ];
    }
}
