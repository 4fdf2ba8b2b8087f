<?php

declare(strict_types=1);

namespace Sorvel\App\Note;

use Doctrine\ORM\Mapping as ORM;

/** What somebody wrote on a ticket: for the staff, or for the requester too. Append only. */
#[ORM\Entity(readOnly: true)]
#[ORM\Table(name: 'note')]
#[ORM\Index(name: 'note_of_record', columns: ['record', 'id'])]
class Note
{
    public const MAX = 20_000;

    #[ORM\Id]
    #[ORM\GeneratedValue]
    #[ORM\Column]
    private ?int $id = null; // @phpstan-ignore property.unusedType (Doctrine gives it)

    #[ORM\Column(length: 40)]
    private string $record;

    #[ORM\Column(length: 20, enumType: Readers::class)]
    private Readers $readers;

    #[ORM\Column(name: 'person', length: 60, nullable: true)]
    private ?string $by;

    #[ORM\Column]
    private \DateTimeImmutable $at;

    #[ORM\Column(type: 'text')]
    private string $text;

    /** The rule that wrote it. */
    #[ORM\Column(length: 80, nullable: true)]
    private ?string $rule;

    /** The address that a message came from, when it is one. */
    #[ORM\Column(length: 190, nullable: true)]
    private ?string $sender;

    public function __construct(string $record, Readers $readers, ?string $by, \DateTimeImmutable $at, string $text, ?string $rule = null, ?string $sender = null)
    {
        $this->rule = $rule;
        $this->sender = $sender;
        $this->record = $record;
        $this->readers = $readers;
        $this->by = $by;
        $this->at = $at;
        $this->text = $text;
    }

    /** @return array<string, mixed> as the API shows it */
    public function toArray(): array
    {
        return ['note' => $this->id, 'for' => $this->readers->value, 'by' => $this->by, 'at' => $this->at->format(\DATE_ATOM), 'text' => $this->text, 'rule' => $this->rule, 'sender' => $this->sender];
    }

    public function record(): string
    {
        return $this->record;
    }
}
