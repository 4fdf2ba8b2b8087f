<?php

declare(strict_types=1);

namespace Sorvel\App\Http;

use Sorvel\Core\Format\InputError;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpKernel\Exception\HttpException;

/** A refusal as problem details (RFC 9457): what is wrong (title), how to mend it (detail), where (errors). */
final class Problem extends HttpException
{
    /**
     * @param  list<array{pointer: string, detail: string, from?: int|null, to?: int|null}>  $errors
     * @param  array<string, mixed>  $more
     */
    public function __construct(int $status, private readonly string $title, private readonly string $detail = '', private readonly array $errors = [], private readonly array $more = [])
    {
        parent::__construct($status, $title);
    }

    /** @param  callable(array{pointer: string, detail: string, from?: int|null, to?: int|null}): array{pointer: string, detail: string, from?: int|null, to?: int|null}  $say */
    public function said(callable $say): self
    {
        return new self($this->getStatusCode(), $this->title, $this->detail, array_map($say, $this->errors), $this->more);
    }

    /** @return non-empty-list<string> each reason in words, or the title */
    public function details(): array
    {
        return $this->errors === [] ? [$this->title] : array_column($this->errors, 'detail');
    }

    /** @param  list<InputError>  $errors */
    public static function input(string $title, array $errors, string $prefix = ''): self
    {
        return new self(422, $title, 'Nothing was saved. Mend what is listed and try again.', array_map(fn (InputError $e): array => ['pointer' => $prefix.$e->path, 'detail' => $e->message, 'from' => $e->from, 'to' => $e->to], $errors));
    }

    public function response(): JsonResponse
    {
        $body = ['type' => 'about:blank', 'title' => $this->title, 'status' => $this->getStatusCode()];
        if ($this->detail !== '') {
            $body['detail'] = $this->detail;
        }
        if ($this->errors !== []) {
            $body['errors'] = $this->errors;
        }

        return new JsonResponse([...$body, ...$this->more], $this->getStatusCode(), ['Content-Type' => 'application/problem+json']);
    }
}
