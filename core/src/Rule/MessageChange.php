<?php

declare(strict_types=1);

namespace Sorvel\Core\Rule;

use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\Rulebook;

/** `{message: mail, to: …, subject: …}`: its cell is the body; null sends none, and neither does nobody to send it to. */
final class MessageChange implements ActionChange
{
    public function __construct(private readonly Formula $to, private readonly Formula $subject)
    {
    }

    public function kind(): string
    {
        return 'message';
    }

    public function action(mixed $cell, \Closure $value, Rulebook $rulebook): ?array
    {
        if (Record::isEmpty($cell)) {
            return null;
        }
        if (! is_string($cell)) {
            throw new Misfit('the body of a message must come to a text.');
        }
        $to = Recipients::addresses($value($this->to), $rulebook);
        $subject = $value($this->subject);
        if (! is_string($subject) || trim($subject) === '') {
            throw new Misfit('the subject of a message must come to a text.');
        }

        return $to === [] ? null : ['to' => $to, 'subject' => trim((string) preg_replace('~\s+~u', ' ', $subject)), 'body' => $cell];
    }

    public function formulas(): array
    {
        return [$this->to, $this->subject];
    }
}
