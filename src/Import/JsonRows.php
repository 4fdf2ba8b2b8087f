<?php

declare(strict_types=1);

namespace Sorvel\App\Import;

/** A JSON file: a list of objects, or an object with one list in it. Values may be plain data instead of words. */
final class JsonRows
{
    /** @var list<string> */
    public readonly array $columns;

    /** @var list<array<string, mixed>> */
    private readonly array $objects;

    public function __construct(string $text)
    {
        try {
            $data = json_decode($text, true, 32, JSON_THROW_ON_ERROR | JSON_BIGINT_AS_STRING);
        } catch (\JsonException $error) {
            throw new ImportError('The file is not readable JSON: '.$error->getMessage().'.', 'Send a list of objects: [{"name": …}, …].');
        }
        $lists = is_array($data) && ! array_is_list($data) ? array_values(array_filter($data, fn (mixed $v): bool => is_array($v) && array_is_list($v))) : [$data];
        $objects = count($lists) === 1 && is_array($lists[0]) ? $lists[0] : null;
        if ($objects === null || $objects === []) {
            throw new ImportError($objects === [] ? 'The file holds no records.' : 'There is no list of records in the file.', 'Send a list of objects: [{"name": …}, …].');
        }
        $columns = [];
        foreach ($objects as $i => $object) {
            if (! is_array($object) || ($object !== [] && array_is_list($object))) {
                throw new ImportError(sprintf('Record %d is not an object.', (int) $i + 1), 'Send a list of objects: [{"name": …}, …].');
            }
            $columns += $object;
        }
        $this->columns = array_map(strval(...), array_keys($columns));
        CsvRows::mustBeDistinct($this->columns);
        /** @var list<array<string, mixed>> $objects */
        $this->objects = $objects;
    }

    /** @return iterable<int, list<mixed>> cells by number of the record, from 1 */
    public function rows(): iterable
    {
        foreach ($this->objects as $i => $object) {
            yield $i + 1 => array_map(fn (string $column): mixed => $object[$column] ?? null, $this->columns);
        }
    }
}
