<?php

declare(strict_types=1);

namespace Sorvel\App\Desk;

use Doctrine\ORM\Mapping as ORM;

/** How a record lies in the database. Read and written through {@see Records} only. */
#[ORM\Entity]
#[ORM\Table(name: 'record')]
#[ORM\Index(name: 'record_by_change', columns: ['type', 'changed_at', 'id'])]
#[ORM\Index(name: 'record_by_state', columns: ['type', 'state', 'changed_at'])]
#[ORM\Index(name: 'record_by_name', columns: ['type', 'folded'])]
#[ORM\Index(name: 'record_by_number', columns: ['type', 'n'])]
#[ORM\Index(name: 'record_by_assignee', columns: ['assignee', 'changed_at'])]
class RecordRow
{
    #[ORM\Id]
    #[ORM\Column(length: 40)]
    public string $id;

    /** A small number for the index */
    #[ORM\Column(unique: true, options: ['unsigned' => true], columnDefinition: 'INT UNSIGNED NOT NULL AUTO_INCREMENT UNIQUE')]
    public int $n;

    #[ORM\Column(length: 60)]
    public string $type;

    /** Whether it is a ticket; a register's record is not */
    #[ORM\Column]
    public bool $ticket;

    /** What it is called: title or name */
    #[ORM\Column(length: 500)]
    public string $name;

    /** The name in small letters, kept by the database */
    #[ORM\Column(length: 190, nullable: true, insertable: false, updatable: false, columnDefinition: 'VARCHAR(190) AS (LOWER(LEFT(name, 190))) PERSISTENT', generated: 'ALWAYS')]
    public ?string $folded;

    #[ORM\Column(length: 60, nullable: true)]
    public ?string $state;

    #[ORM\Column(length: 60, nullable: true)]
    public ?string $assignee;

    #[ORM\Column(length: 60, nullable: true)]
    public ?string $team;

    /** @var array<string, mixed> by field key */
    #[ORM\Column(name: 'field_values', type: 'json')]
    public array $values;

    #[ORM\Column]
    public int $version;

    #[ORM\Column]
    public \DateTimeImmutable $createdAt;

    #[ORM\Column]
    public \DateTimeImmutable $changedAt;
}
