<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

use Sorvel\Core\Model\Kind\RichTextKind;
use Sorvel\Core\Model\Person;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Rulebook;

/** A message that has come in. */
final class Message
{
    public readonly string $text;

    /** @param  string|null  $text  read from the markup when there is none */
    public function __construct(public readonly string $from, public readonly string $subject, ?string $text, public readonly ?string $html)
    {
        $this->text = $text ?? ($html === null ? '' : RichTextKind::plain($html));
    }

    /** @return array{from: string, subject: string, text: string, html: string|null} */
    public function toArray(): array
    {
        return ['from' => $this->from, 'subject' => $this->subject, 'text' => $this->text, 'html' => $this->html];
    }

    /** Who of the desk wrote it. */
    public function writer(Rulebook $rulebook): ?Person
    {
        foreach ($rulebook->people as $person) {
            if ($person->email !== null && mb_strtolower($person->email) === mb_strtolower($this->from)) {
                return $person;
            }
        }

        return null;
    }

    /** @return array<string, mixed> the values of a record that it opens */
    public function opening(RecordType $type, Rulebook $rulebook): array
    {
        $writer = $this->writer($rulebook);
        $subject = trim($this->subject) === '' ? '(no subject)' : trim($this->subject);

        return [($type->nameField ?? 'title') => mb_strimwidth($subject, 0, 250, '…'), ...($type->isTicket && $writer?->active === true ? ['requester' => $writer->key] : [])];
    }
}
