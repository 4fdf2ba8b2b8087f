<?php

declare(strict_types=1);

namespace Sorvel\App\Outbox;

/** A message or a call that goes out. */
final class Outgoing
{
    /**
     * @param  string  $token  the receiver knows it again by this
     * @param  'mail'|'call'  $kind
     * @param  string  $name  who a message goes to, or the key of the call
     * @param  array<string, mixed>  $data  to, subject, body; or endpoint, method, headers, body
     */
    private function __construct(
        public readonly int $id,
        public readonly string $token,
        public readonly string $kind,
        public readonly ?string $record,
        public readonly ?string $rule,
        public readonly string $name,
        public readonly array $data,
        public readonly Stage $stage,
        public readonly int $tries,
        public readonly string $madeAt,
        public readonly ?string $doneAt,
        public readonly ?int $status,
        public readonly ?string $answer,
        public readonly string $problem,
    ) {
    }

    /** @param  array<string, mixed>  $row */
    public static function of(array $row): self
    {
        $text = fn (string $key): string => is_scalar($row[$key] ?? null) ? (string) $row[$key] : '';
        $maybe = fn (string $key): ?string => isset($row[$key]) ? $text($key) : null;
        $data = json_decode($text('data'), true);

        return new self((int) $text('id'), $text('token'), $text('kind') === 'call' ? 'call' : 'mail', $maybe('record'), $maybe('rule'), $text('name'), is_array($data) ? $data : [], Stage::from($text('stage')), (int) $text('tries'), $text('made_at'), $maybe('done_at'), isset($row['status']) ? (int) $text('status') : null, $maybe('answer'), $text('problem'));
    }

    public function tried(): self
    {
        return new self($this->id, $this->token, $this->kind, $this->record, $this->rule, $this->name, $this->data, Stage::Sending, $this->tries + 1, $this->madeAt, $this->doneAt, $this->status, $this->answer, $this->problem);
    }

    public function text(string $key): string
    {
        return is_string($this->data[$key] ?? null) ? $this->data[$key] : '';
    }

    /** @return list<string> */
    public function texts(string $key): array
    {
        return is_array($this->data[$key] ?? null) ? array_values(array_filter($this->data[$key], is_string(...))) : [];
    }

    /** @return array<string, mixed> as the API shows it */
    public function toArray(): array
    {
        $time = fn (?string $at): ?string => $at === null ? null : (new \DateTimeImmutable($at))->format(\DATE_ATOM);

        return ['outgoing' => $this->id, 'kind' => $this->kind, 'name' => $this->name, 'record' => $this->record, 'rule' => $this->rule, 'data' => (object) $this->data, 'stage' => $this->stage->value, 'tries' => $this->tries, 'at' => $time($this->madeAt), 'done_at' => $time($this->doneAt), 'status' => $this->status, 'answer' => $this->answer, 'problem' => $this->problem];
    }
}
