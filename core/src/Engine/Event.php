<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

use Sorvel\Core\Model\Role;

/** Something that happens to one record. */
final class Event
{
    /**
     * @param  string  $id  of the record; for a creation the new one
     * @param  array<string, mixed>  $values  incoming values by field, plain JSON data; null empties a field
     * @param  string|null  $by  the key of the person, null for the desk itself
     * @param  string  $at  ISO 8601
     * @param  array<string, mixed>  $taken  stored values of tallies, which the desk itself sets
     * @param  Role|null  $role  of the person; as the rulebook lists them when left out
     * @param  array<string, int>  $due  rules that the event speaks to, with the place of the start that does; for `at` and `by_hand`
     * @param  array<string, mixed>  $data  what came along, plain data: message, or call with status and body, or inputs
     * @param  array<string, array<string, list<string>>>  $related  fields that changed on a record that this one refers to, by reference and that record's id
     * @param  list<Order>  $orders  of rules on other records
     */
    private function __construct(
        public readonly EventKind $kind,
        public readonly string $type,
        public readonly string $id,
        public readonly array $values,
        public readonly ?string $by,
        public readonly string $at,
        public readonly array $taken = [],
        public readonly ?Role $role = null,
        public readonly array $due = [],
        public readonly array $data = [],
        public readonly array $related = [],
        public readonly array $orders = [],
    ) {
    }

    /** @param  array<string, mixed>  $values */
    public static function created(string $type, string $id, array $values, ?string $by, string $at, ?Role $role = null): self
    {
        return new self(EventKind::Created, $type, $id, $values, $by, $at, [], $role);
    }

    /**
     * What follows from other records: nothing comes in, but tallies may have other values, records that it refers to may
     * have changed, and rules on other records may want something of it.
     *
     * @param  array<string, mixed>  $tallies  stored values by field
     * @param  array<string, array<string, list<string>>>  $related
     * @param  list<Order>  $orders
     */
    public static function followed(string $type, string $id, array $tallies, string $at, array $related = [], array $orders = []): self
    {
        return new self(EventKind::Changed, $type, $id, [], null, $at, $tallies, related: $related, orders: $orders);
    }

    /** @param  array<string, mixed>  $values */
    public static function changed(string $type, string $id, array $values, ?string $by, string $at, ?Role $role = null): self
    {
        return new self(EventKind::Changed, $type, $id, $values, $by, $at, [], $role);
    }

    public static function deleted(string $type, string $id, ?string $by, string $at, ?Role $role = null): self
    {
        return new self(EventKind::Deleted, $type, $id, [], $by, $at, [], $role);
    }

    /**
     * @param  string|null  $by  who wrote it, when the desk knows them
     * @param  array<string, mixed>  $values  for a record that it opens
     */
    public static function received(string $type, string $id, Message $message, array $values, ?string $by, string $at, ?Role $role = null): self
    {
        return new self(EventKind::Received, $type, $id, $values, $by, $at, [], $role, data: ['message' => $message->toArray()]);
    }

    /** @param  int|null  $status  of the answer; null when there was none */
    public static function answered(string $type, string $id, string $call, ?int $status, mixed $body, string $at): self
    {
        return new self(EventKind::Answered, $type, $id, [], null, $at, data: ['call' => $call, 'status' => $status, 'body' => $body]);
    }

    /** @param  array<string, int>  $due  the place of the start by rule */
    public static function scheduled(string $type, string $id, array $due, string $at): self
    {
        return new self(EventKind::At, $type, $id, [], null, $at, due: $due);
    }

    /** @param  array<string, mixed>  $inputs  answers by question */
    public static function byHand(string $type, string $id, string $rule, array $inputs, ?string $by, string $at, ?Role $role = null): self
    {
        return new self(EventKind::ByHand, $type, $id, [], $by, $at, [], $role, due: [$rule => 0], data: ['inputs' => $inputs]);
    }

    public function isOpening(): bool
    {
        return $this->kind === EventKind::Created || $this->kind === EventKind::Received;
    }
}
