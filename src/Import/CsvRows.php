<?php

declare(strict_types=1);

namespace Sorvel\App\Import;

use Sorvel\App\Export\Sheet;

/** A CSV file, read row by row: commas, semicolons or tabs; UTF-8 with or without a mark, UTF-16 with one, or what it is said to be. */
final class CsvRows
{
    private const MOST_COLUMNS = 200;

    private const MOST_IN_A_CELL = 300_000;

    /** @var list<string> */
    public readonly array $columns;

    private readonly string $delimiter;

    /** @param  resource  $stream  at its beginning; seekable */
    public function __construct(private $stream, private readonly ?string $encoding)
    {
        $this->prepare();
        $this->delimiter = self::delimiter($this->peek());
        $this->columns = $this->header();
    }

    /** @return iterable<int, list<string>|string> cells by line number of the file's rows (the header is 1), or why a row cannot be read */
    public function rows(): iterable
    {
        $number = 1;
        $count = count($this->columns);
        while (($cells = fgetcsv($this->stream, separator: $this->delimiter, escape: '')) !== false) {
            $number++;
            if ($cells === [null]) {
                continue;
            }
            $cells = array_map(fn (?string $cell): string => Sheet::itself(trim((string) $cell)), $cells);
            while (count($cells) > $count && end($cells) === '') {
                array_pop($cells);
            }
            yield $number => match (true) {
                count($cells) !== $count => sprintf('Cells in this row: %d; columns in the header: %d.', count($cells), $count),
                ! mb_check_encoding(implode('', $cells), 'UTF-8') => throw self::notUtf8($number),
                max(0, ...array_map(strlen(...), array_values($cells))) > self::MOST_IN_A_CELL => 'A cell of this row is longer than 300,000 bytes; a quotation mark may be missing.',
                default => array_values($cells),
            };
        }
    }

    private function prepare(): void
    {
        $start = (string) fread($this->stream, 3);
        $utf16 = match (substr($start, 0, 2)) {
            "\xFF\xFE" => 'UTF-16LE', "\xFE\xFF" => 'UTF-16BE', default => null
        };
        fseek($this->stream, match (true) {
            $start === "\xEF\xBB\xBF" => 3, $utf16 !== null => 2, default => 0
        });
        $from = $utf16 ?? $this->encoding;
        if ($from !== null && strtoupper($from) !== 'UTF-8') {
            if (! in_array(strtoupper($from), ['UTF-16LE', 'UTF-16BE', 'WINDOWS-1252', 'ISO-8859-1', 'ISO-8859-15'], true)) {
                throw new ImportError('This encoding is not known.', 'Known are UTF-8, UTF-16, Windows-1252, ISO-8859-1 and ISO-8859-15.');
            }
            $plain = fopen('php://temp/maxmemory:8000000', 'w+');
            $filter = $plain === false ? false : stream_filter_append($this->stream, 'convert.iconv.'.$from.'.UTF-8', STREAM_FILTER_READ);
            if ($plain === false || $filter === false || @stream_copy_to_stream($this->stream, $plain) === false) {
                throw new ImportError('The file could not be turned into UTF-8.', 'Save it as UTF-8 and send it again.');
            }
            rewind($plain);
            $this->stream = $plain;
        }
    }

    private function peek(): string
    {
        $at = ftell($this->stream);
        $start = (string) fread($this->stream, 65_536);
        fseek($this->stream, (int) $at);

        return $start;
    }

    private static function delimiter(string $start): string
    {
        $line = strtok((string) preg_replace('~"[^"]*"~', '', $start), "\r\n");
        $counts = array_map(fn (string $d): int => substr_count((string) $line, $d), [',' => ',', ';' => ';', "\t" => "\t"]);
        arsort($counts);

        return (string) array_key_first($counts);
    }

    /** @return list<string> */
    private function header(): array
    {
        $cells = fgetcsv($this->stream, separator: $this->delimiter, escape: '');
        if ($cells === false || $cells === [null]) {
            throw new ImportError('The file is empty.', 'Its first row names the columns; each row after it is a record.');
        }
        $columns = array_map(fn (?string $cell): string => trim((string) $cell), $cells);
        if (! mb_check_encoding(implode('', $columns), 'UTF-8')) {
            throw self::notUtf8(1);
        }
        if (str_contains(implode('', $columns), "\0") || preg_match('~^\s*[<{]~', $columns[0]) === 1) {
            throw new ImportError('This is not a CSV file.', 'Send CSV, JSON or a spreadsheet (.xlsx).');
        }
        while ($columns !== [] && end($columns) === '') {
            array_pop($columns);
        }
        if (count($columns) > self::MOST_COLUMNS) {
            throw new ImportError(sprintf('The file has %d columns; at most %d fit.', count($columns), self::MOST_COLUMNS), 'Leave out columns that are not needed.');
        }
        self::mustBeDistinct($columns);

        return array_values($columns);
    }

    /** @param  array<string>  $columns */
    public static function mustBeDistinct(array $columns): void
    {
        foreach (array_count_values(array_map(mb_strtolower(...), $columns)) as $name => $times) {
            if ($name === '') {
                throw new ImportError('A column has no name.', 'The first row names every column.');
            }
            if ($times > 1) {
                throw new ImportError(sprintf('Two columns are called "%s".', mb_strimwidth((string) $name, 0, 60, '…')), 'Give each column a name of its own.');
            }
        }
    }

    private static function notUtf8(int $row): ImportError
    {
        return new ImportError(sprintf('Row %d is not UTF-8 text.', $row), 'Save the file as UTF-8, or say that it is Windows-1252.');
    }
}
