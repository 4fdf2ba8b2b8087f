<?php

declare(strict_types=1);

namespace Sorvel\App\Http;

use Symfony\Component\HttpFoundation\Request;

/** The JSON body of a request, read with clear errors. */
final class Body
{
    private const MAX_BYTES = 2_000_000;

    /** @param  array<string, mixed>  $data */
    private function __construct(private readonly array $data)
    {
    }

    public static function of(Request $request): self
    {
        $text = $request->getContent();
        if (strlen($text) > self::MAX_BYTES) {
            throw new Problem(413, 'The request is larger than 2 MB.', 'Send less at once.');
        }
        try {
            $data = json_decode($text, true, 64, JSON_THROW_ON_ERROR);
        } catch (\JsonException $error) {
            throw new Problem(400, 'The body is not readable JSON.', $error->getMessage().'.');
        }
        if (! is_array($data) || (array_is_list($data) && $data !== [])) {
            throw new Problem(400, 'The body must be a JSON object.', 'Send {…}.');
        }

        return new self($data);
    }

    public function text(string $key): string
    {
        return is_string($this->data[$key] ?? null) ? $this->data[$key] : throw $this->wrong($key, 'a text');
    }

    public function textOrNull(string $key): ?string
    {
        return isset($this->data[$key]) ? $this->text($key) : null;
    }

    public function integerOrNull(string $key): ?int
    {
        if (! isset($this->data[$key])) {
            return null;
        }

        return is_int($this->data[$key]) ? $this->data[$key] : throw $this->wrong($key, 'a whole number');
    }

    public function has(string $key): bool
    {
        return isset($this->data[$key]);
    }

    public function flag(string $key): bool
    {
        $value = $this->data[$key] ?? false;

        return is_bool($value) ? $value : throw $this->wrong($key, 'true or false');
    }

    /** @return array<string, mixed> */
    public function map(string $key): array
    {
        $map = $this->data[$key] ?? null;

        return is_array($map) && ($map === [] || ! array_is_list($map)) ? $map : throw $this->wrong($key, 'an object');
    }

    /** @return array<string, mixed>|null */
    public function mapOrNull(string $key): ?array
    {
        return isset($this->data[$key]) ? $this->map($key) : null;
    }

    /** @return list<array<string, mixed>> */
    public function maps(string $key): array
    {
        $list = $this->data[$key] ?? null;
        if (! is_array($list) || ! array_is_list($list) || array_filter($list, fn (mixed $v): bool => ! is_array($v)) !== []) {
            throw $this->wrong($key, 'a list of objects');
        }

        /** @var list<array<string, mixed>> $list */
        return $list;
    }

    /** @return list<string> */
    public function texts(string $key): array
    {
        $list = $this->data[$key] ?? null;
        if (! is_array($list) || ! array_is_list($list) || array_filter($list, fn (mixed $v): bool => ! is_string($v)) !== []) {
            throw $this->wrong($key, 'a list of texts');
        }

        return $list;
    }

    /** @param  array<string, mixed>  $data */
    public static function from(array $data): self
    {
        return new self($data);
    }

    private function wrong(string $key, string $what): Problem
    {
        $detail = array_key_exists($key, $this->data) ? sprintf('"%s" must be %s.', $key, $what) : sprintf('"%s" is missing; it must be %s.', $key, $what);

        return new Problem(422, 'The body does not have the right form.', 'Nothing was saved.', [['pointer' => '/'.$key, 'detail' => $detail]]);
    }
}
