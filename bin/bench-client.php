<?php

declare(strict_types=1);

// What the benchmarks over HTTP share.

use Symfony\Component\HttpClient\HttpClient;
use Symfony\Contracts\HttpClient\HttpClientInterface;

require dirname(__DIR__).'/vendor/autoload.php';

/** @param  list<float>  $values */
function percentile(array $values, float $share): float
{
    sort($values);

    return $values === [] ? 0.0 : $values[(int) ceil($share * count($values)) - 1];
}

function line(string $what, string $figure, string $target, bool $met): void
{
    printf("%-58s %14s   target %-14s %s\n", $what, $figure, $target, $met ? 'met' : 'MISSED');
}

final class Bench
{
    private string $cookie = '';

    private string $token = '';

    public function __construct(private readonly HttpClientInterface $http, private readonly string $url)
    {
    }

    public static function signedIn(string $person): self
    {
        $bench = new self(HttpClient::create(), (string) getenv('SORVEL_URL'));
        $bench->call('GET', '/api/session');
        $bench->call('POST', '/api/session', ['email' => $person.'@tolvane.example', 'password' => 'ferry-demo']);

        return $bench;
    }

    /** @return array<string, string> what says who asks */
    public function headers(): array
    {
        return ['Cookie' => $this->cookie, 'X-Sorvel-Token' => $this->token];
    }

    /**
     * @param  array<string, mixed>|string|null  $body  text is sent as it is
     * @param  array<string, string>  $headers
     * @return array{float, array<string, mixed>} milliseconds from the request to the last byte, and the answer
     */
    public function call(string $method, string $path, array|string|null $body = null, array $headers = []): array
    {
        $start = hrtime(true);
        $response = $this->http->request($method, $this->url.$path, ['headers' => [...$this->headers(), ...$headers], ...($body === null ? [] : (is_string($body) ? ['body' => $body] : ['json' => $body]))]);
        $text = $response->getContent();
        $ms = (hrtime(true) - $start) / 1e6;
        foreach ($response->getHeaders()['set-cookie'] ?? [] as $cookie) {
            $this->cookie = explode(';', $cookie)[0];
        }
        $answer = json_decode($text, true);
        $answer = is_array($answer) ? $answer : [];
        if ($path === '/api/session') {
            $this->token = is_string($answer['token'] ?? null) ? $answer['token'] : '';
        }

        return [$ms, $answer];
    }
}
