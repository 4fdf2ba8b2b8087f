<?php

declare(strict_types=1);

namespace Sorvel\Tests\Api;

use PHPUnit\Framework\Assert;
use Symfony\Component\HttpClient\HttpClient;

/** A browser without a window: keeps its session, sends its token, holds every answer against the contract. */
final class Client
{
    private string $cookie = '';

    public string $token = '';

    /** @param  array<string, string>  $extra headers of every request */
    public function __construct(private readonly array $extra = [])
    {
    }

    public static function as(string $person): self
    {
        $client = new self;
        $client->call('GET', '/api/session');
        $answer = $client->call('POST', '/api/session', ['email' => $person.'@tolvane.example', 'password' => 'ferry-demo']);
        Assert::assertSame(200, $answer->status, $answer->body);

        return $client;
    }

    /**
     * @param  array<string, mixed>|string|null  $body
     * @param  array<string, string>  $headers
     */
    public function call(string $method, string $path, array|string|null $body = null, array $headers = []): Answer
    {
        $response = HttpClient::create()->request($method, getenv('SORVEL_URL').$path, [
            'headers' => [...($this->cookie === '' ? [] : ['Cookie' => $this->cookie]), ...($method === 'GET' || $this->token === '' ? [] : ['X-Sorvel-Token' => $this->token]), ...($body === null ? [] : ['Content-Type' => 'application/json']), ...$this->extra, ...$headers],
            ...($body === null ? [] : ['body' => is_string($body) ? $body : json_encode($body === [] ? new \stdClass : $body)]),
            'max_redirects' => 0,
        ]);
        $answer = new Answer($response->getStatusCode(), $response->getContent(false), $response->getHeaders(false));
        foreach ($answer->headers['set-cookie'] ?? [] as $cookie) {
            $this->cookie = explode(';', $cookie)[0];
        }
        $token = $path === '/api/session' ? ($answer->json()['token'] ?? null) : null;
        $this->token = is_string($token) ? $token : $this->token;
        Assert::assertNull(Contract::get()->mistake((string) parse_url($path, PHP_URL_PATH), $method, $answer->status, $answer->body), "$method $path → $answer->status\n".mb_strimwidth($answer->body, 0, 600));

        return $answer;
    }

    public function cookie(): string
    {
        return $this->cookie;
    }

    /** @return array<string, mixed> a part of the draft, as listed */
    public function part(string $kind, string $key): array
    {
        foreach ($this->call('GET', '/api/draft')->json()[$kind] as $part) {
            if ($part['key'] === $key) {
                return $part;
            }
        }
        Assert::fail("There is no $key among the $kind.");
    }

    /**
     * @param  array<string, mixed>  $tree
     */
    public function save(string $kind, string $key, array $tree, int $version): Answer
    {
        return $this->call('PUT', "/api/draft/$kind/$key", ['tree' => $tree], ['If-Match' => '"'.$version.'"']);
    }
}
