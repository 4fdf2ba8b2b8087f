<?php

declare(strict_types=1);

namespace Sorvel\App\Desk;

use Sorvel\Core\Model\Record;

/** A record with what the database knows besides: version, moments, and its number there. */
final class StoredRecord
{
    public function __construct(
        public readonly Record $record,
        public readonly int $version,
        public readonly \DateTimeImmutable $createdAt,
        public readonly \DateTimeImmutable $changedAt,
        public readonly int $n,
    ) {
    }

    /** @return array<string, mixed> as the API shows it */
    public function toArray(): array
    {
        return ['id' => $this->record->id, 'type' => $this->record->type, 'version' => $this->version, 'values' => (object) Record::json($this->record->values), 'created_at' => $this->createdAt->format(\DATE_ATOM), 'changed_at' => $this->changedAt->format(\DATE_ATOM)];
    }
}
