<?php

declare(strict_types=1);

namespace Sorvel\App\Outbox;

use Doctrine\DBAL\Connection;
use Sorvel\Core\Engine\Action;
use Symfony\Component\Uid\Uuid;

/**
 * Messages and calls that are to go out, kept in the transaction of the save that wants them. Each has a token by which
 * a receiver knows it again, should it come twice.
 */
final class Outbox
{
    /** So long somebody may be at one before it is taken up again, in seconds. */
    public const PATIENCE = 60;

    private const TIME = 'Y-m-d H:i:s.v';

    public function __construct(private readonly Connection $database)
    {
    }

    /**
     * Inside the transaction that saves what they are about.
     *
     * @param  list<Action>  $actions  of the kinds message and call; others are left alone
     */
    public function take(array $actions, \DateTimeImmutable $at): void
    {
        foreach ($actions as $action) {
            if ($action->kind === 'message') {
                $to = is_array($action->data['to'] ?? null) ? implode(', ', array_filter($action->data['to'], is_string(...))) : '';
                $this->add('mail', $to, $action->data, $action->record, $action->rule, $at);
            } elseif ($action->kind === 'call') {
                $this->add('call', is_string($action->data['call'] ?? null) ? $action->data['call'] : '', $action->data, $action->record, $action->rule, $at);
            }
        }
    }

    /**
     * @param  'mail'|'call'  $kind
     * @param  string  $name  who a message goes to, or the key of the call
     * @param  array<string, mixed>  $data
     */
    public function add(string $kind, string $name, array $data, ?string $record, ?string $rule, \DateTimeImmutable $at): void
    {
        $this->database->insert('outgoing', ['token' => Uuid::v4()->toRfc4122(), 'kind' => $kind, 'record' => $record, 'rule' => $rule, 'name' => mb_strimwidth($name, 0, 190, '…'), 'data' => json_encode($data, JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES | JSON_THROW_ON_ERROR), 'stage' => Stage::Waiting->value, 'made_at' => $at->format('Y-m-d H:i:s'), 'due_at' => $at->format(self::TIME)]);
    }

    /** The next one that is due, taken so that nobody else takes it; null when there is none. */
    public function claim(\DateTimeImmutable $now): ?Outgoing
    {
        return $this->database->transactional(function () use ($now): ?Outgoing {
            $row = $this->database->fetchAssociative("SELECT * FROM outgoing WHERE stage IN ('waiting', 'sending') AND due_at <= ? ORDER BY due_at, id LIMIT 1 FOR UPDATE SKIP LOCKED", [$now->format(self::TIME)]);
            if ($row === false) {
                return null;
            }
            $outgoing = Outgoing::of($row);
            $this->database->update('outgoing', ['stage' => Stage::Sending->value, 'tries' => $outgoing->tries + 1, 'due_at' => $now->modify('+'.self::PATIENCE.' seconds')->format(self::TIME)], ['id' => $outgoing->id]);

            return $outgoing->tried();
        });
    }

    /** Inside a transaction: what came of it, once and for all. False when somebody else has told already. */
    public function finish(Outgoing $outgoing, Stage $stage, ?int $status, ?string $answer, string $problem, \DateTimeImmutable $at): bool
    {
        return $this->database->executeStatement("UPDATE outgoing SET stage = ?, status = ?, answer = ?, problem = ?, done_at = ? WHERE id = ? AND stage IN ('waiting', 'sending')", [$stage->value, $status, $answer, mb_strimwidth($problem, 0, 500, '…'), $at->format('Y-m-d H:i:s'), $outgoing->id]) === 1;
    }

    /** It is tried again later. */
    public function postpone(Outgoing $outgoing, ?int $status, string $problem, \DateTimeImmutable $until): void
    {
        $this->database->executeStatement("UPDATE outgoing SET stage = 'waiting', status = ?, problem = ?, due_at = ? WHERE id = ? AND stage = 'sending'", [$status, mb_strimwidth($problem, 0, 500, '…'), $until->format(self::TIME), $outgoing->id]);
    }

    /** Inside a transaction: one that was given up can be finished once more. */
    public function reopen(Outgoing $outgoing): void
    {
        $this->database->executeStatement("UPDATE outgoing SET stage = 'sending' WHERE id = ? AND stage <> 'sent'", [$outgoing->id]);
    }

    public function find(int $id, bool $lock = false): ?Outgoing
    {
        $row = $this->database->fetchAssociative('SELECT * FROM outgoing WHERE id = ?'.($lock ? ' FOR UPDATE' : ''), [$id]);

        return $row === false ? null : Outgoing::of($row);
    }

    /**
     * @return list<array<string, mixed>> newest first, as the API shows them
     */
    public function page(?string $kind, ?string $stage, ?string $record, int $before, int $limit): array
    {
        $where = ['id < ?'];
        $parameters = [$before];
        foreach (['kind' => $kind, 'stage' => $stage, 'record' => $record] as $column => $value) {
            if ($value !== null) {
                $where[] = $column.' = ?';
                $parameters[] = $value;
            }
        }

        return array_map(fn (array $row): array => Outgoing::of($row)->toArray(), $this->database->fetchAllAssociative('SELECT * FROM outgoing WHERE '.implode(' AND ', $where).' ORDER BY id DESC LIMIT '.$limit, $parameters));
    }
}
