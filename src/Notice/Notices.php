<?php

declare(strict_types=1);

namespace Sorvel\App\Notice;

use Doctrine\DBAL\Connection;
use Sorvel\App\Outbox\Outbox;
use Sorvel\Core\Engine\Action;
use Sorvel\Core\Model\Rulebook;

/** What people are told: by rules, and of what went wrong in the rules that they own. */
final class Notices
{
    public function __construct(private readonly Connection $database, private readonly Outbox $outbox)
    {
    }

    /**
     * Inside the transaction of the save that wants them.
     *
     * @param  list<Action>  $actions  of the kind notify; others are left alone
     */
    public function take(array $actions, \DateTimeImmutable $at): void
    {
        foreach ($actions as $action) {
            foreach ($action->kind === 'notify' && is_array($action->data['people'] ?? null) ? $action->data['people'] : [] as $person) {
                $this->add(is_string($person) ? $person : '', is_string($action->data['text'] ?? null) ? $action->data['text'] : '', $action->record, $action->rule, false, $at);
            }
        }
    }

    private function add(string $person, string $text, ?string $record, ?string $rule, bool $isProblem, \DateTimeImmutable $at): void
    {
        $this->database->insert('notice', ['person' => $person, 'at' => $at->format('Y-m-d H:i:s'), 'text' => mb_strimwidth($text, 0, 4000, '…'), 'record' => $record, 'rule' => $rule, 'problem' => $isProblem ? 1 : 0]);
    }

    /**
     * Tells a rule's owner of a problem, here and by mail. While they have not looked, further ones are only counted.
     */
    public function problem(string $rule, ?string $record, string $text, Rulebook $rulebook, \DateTimeImmutable $at): void
    {
        $of = $rulebook->rules[$rule] ?? null;
        $owner = $of?->owner === null ? null : $rulebook->people[$of->owner] ?? null;
        if ($of === null || $owner === null || ! $owner->active) {
            return;
        }
        if ($this->database->executeStatement('UPDATE notice SET times = times + 1, at = ?, record = ?, text = ? WHERE person = ? AND rule = ? AND problem = 1 AND seen_at IS NULL', [$at->format('Y-m-d H:i:s'), $record, mb_strimwidth($text, 0, 4000, '…'), $owner->key, $rule]) > 0) {
            return;
        }
        $this->add($owner->key, $text, $record, $rule, true, $at);
        if ($owner->email !== null && ! str_ends_with($owner->email, '@invalid')) {
            $this->outbox->add('mail', $owner->email, ['to' => [$owner->email], 'subject' => sprintf('A problem in the rule "%s"', $of->title), 'body' => sprintf("%s\n\nThe rule is \"%s\"%s. Further problems of it are counted and not mailed until you have looked at this one.\n", $text, $of->title, $record === null ? '' : ', the record '.$record)], $record, null, $at);
        }
    }

    /** @return list<array<string, mixed>> those not looked at yet, newest first, as the API shows them */
    public function unseen(string $person): array
    {
        return array_map(self::told(...), $this->database->fetchAllAssociative('SELECT * FROM notice WHERE person = ? AND seen_at IS NULL ORDER BY id DESC LIMIT 50', [$person]));
    }

    public function seen(string $person, ?int $id, \DateTimeImmutable $at): void
    {
        $this->database->executeStatement('UPDATE notice SET seen_at = ? WHERE person = ? AND seen_at IS NULL'.($id === null ? '' : ' AND id = ?'), [$at->format('Y-m-d H:i:s'), $person, ...($id === null ? [] : [$id])]);
    }

    /**
     * @param  array<string, mixed>  $row
     * @return array<string, mixed>
     */
    private static function told(array $row): array
    {
        $text = fn (string $key): string => is_scalar($row[$key] ?? null) ? (string) $row[$key] : '';

        return ['notice' => (int) $text('id'), 'at' => (new \DateTimeImmutable($text('at')))->format(\DATE_ATOM), 'text' => $text('text'), 'record' => $row['record'] ?? null, 'rule' => $row['rule'] ?? null, 'problem' => $text('problem') === '1', 'times' => (int) $text('times')];
    }
}
