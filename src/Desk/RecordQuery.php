<?php

declare(strict_types=1);

namespace Sorvel\App\Desk;

use Sorvel\App\Http\Problem;
use Sorvel\Core\Model\Rulebook;
use Symfony\Component\HttpFoundation\Request;

/** What a list of tickets, or of one register's records, shows: type, words, filters, order, page. */
final class RecordQuery
{
    /**
     * @param  list<FilterLine>  $lines  all of which hold
     * @param  array{string, string}|null  $after  sort value and id of the last record seen
     * @param  bool  $tickets  tickets of any type, or one register's records
     */
    private function __construct(
        public readonly ?string $type,
        public readonly string $words,
        public readonly array $lines,
        public readonly string $sort,
        public readonly bool $descending,
        public readonly ?array $after,
        public readonly int $limit,
        public readonly bool $tickets,
    ) {
    }

    /** @param  string|null  $register  the key of a register; null for tickets */
    public static function of(Request $request, Rulebook $rulebook, string $me, \DateTimeImmutable $now, ?string $register = null): self
    {
        $query = $request->query;
        $type = $register ?? self::text($query->all()['type'] ?? '', 'type');
        if ($register === null && $type !== '' && ($rulebook->types[$type] ?? null)?->isTicket !== true) {
            throw self::wrong('type', sprintf('There is no ticket type "%s".', mb_strimwidth($type, 0, 40, '…')));
        }
        $fields = [];
        foreach ($rulebook->types as $each) {
            if ($each->isTicket === ($register === null) && ($type === '' || $type === $each->key)) {
                foreach ($each->fields as $key => $field) {
                    $fields[$key][] = $field;
                }
            }
        }
        $lines = FilterLine::read(self::text($query->all()['lines'] ?? '', 'lines', 20_000), $fields, $me, $now);
        $given = $query->all()['filter'] ?? [];
        foreach (is_array($given) ? $given : throw self::wrong('filter', 'Filters are written filter[field]=value.') as $field => $value) {
            if (! isset($fields[$field])) {
                throw self::wrong('filter', sprintf('There is no field "%s" to filter by.', mb_strimwidth((string) $field, 0, 40, '…')));
            }
            $lines[] = FilterLine::equals((string) $field, self::text($value, 'filter'), $fields[$field][0]);
        }
        $sort = self::text($query->all()['sort'] ?? ($register === null ? '-changed_at' : 'name'), 'sort');
        $descending = str_starts_with($sort, '-');
        $sort = ltrim($sort, '-');
        if (! isset($fields[$sort]) && ! in_array($sort, ['changed_at', 'created_at', 'name'], true)) {
            throw self::wrong('sort', sprintf('There is no field "%s" to sort by.', mb_strimwidth($sort, 0, 40, '…')));
        }
        $limit = filter_var($query->all()['limit'] ?? 50, FILTER_VALIDATE_INT);
        if ($limit === false || $limit < 1 || $limit > 200) {
            throw self::wrong('limit', 'A page holds 1 to 200.');
        }

        return new self($type === '' ? null : $type, trim(self::text($query->all()['q'] ?? '', 'q')), $lines, $sort, $descending, self::after(self::text($query->all()['cursor'] ?? '', 'cursor')), $limit, $register === null);
    }

    public function page(?string $cursor, int $limit): self
    {
        return new self($this->type, $this->words, $this->lines, $this->sort, $this->descending, $cursor === null ? null : self::after($cursor), $limit, $this->tickets);
    }

    /** Somebody's own tickets, the one changed last first. */
    public static function ofRequester(string $person): self
    {
        return new self(null, '', [FilterLine::equals('requester', $person)], 'changed_at', true, null, 100, true);
    }

    public static function cursor(string $value, string $id): string
    {
        return rtrim(strtr(base64_encode((string) json_encode([$value, $id])), '+/', '-_'), '=');
    }

    /** @return array{string, string}|null */
    private static function after(string $cursor): ?array
    {
        if ($cursor === '') {
            return null;
        }
        $pair = json_decode((string) base64_decode(strtr($cursor, '-_', '+/'), true), true);
        if (! is_array($pair) || ! is_string($pair[0] ?? null) || ! is_string($pair[1] ?? null)) {
            throw self::wrong('cursor', 'The cursor is not one that this list gave.');
        }

        return [$pair[0], $pair[1]];
    }

    private static function text(mixed $value, string $parameter, int $most = 300): string
    {
        return is_string($value) && mb_strlen($value) <= $most ? $value : throw self::wrong($parameter, sprintf('It must be a text of at most %d characters.', $most));
    }

    private static function wrong(string $parameter, string $detail): Problem
    {
        return new Problem(422, 'The list cannot be shown like this.', 'Mend the parameter and try again.', [['pointer' => '/'.$parameter, 'detail' => $detail]]);
    }
}
