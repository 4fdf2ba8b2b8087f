<?php

declare(strict_types=1);

namespace Sorvel\App\Outside;

use Symfony\Component\DependencyInjection\Attribute\Autowire;
use Symfony\Component\HttpClient\HttpClient;
use Symfony\Component\HttpClient\NoPrivateNetworkHttpClient;
use Symfony\Contracts\HttpClient\Exception\ExceptionInterface;

/** Asks an outside list over HTTP, patiently and not too patiently. */
final class Source
{
    private const MOST_BYTES = 20_000_000;

    private const MOST_ROWS = 50_000;

    public function __construct(private readonly Secrets $secrets, #[Autowire('%env(default::SORVEL_STAND_IN)%')] private readonly ?string $standIn)
    {
    }

    /**
     * @return list<array<string, mixed>> rows by field
     *
     * @throws SourceFailure
     */
    public function rows(OutsideList $list): array
    {
        $data = json_decode($this->body($list), true, 64);
        $rows = JsonPath::read($list->rows())->in($data);
        if (! is_array($rows) || ! array_is_list($rows)) {
            throw new SourceFailure(sprintf('There is no list at %s in the answer.', $list->rows() === '' ? 'the top' : '"'.$list->rows().'"'));
        }
        if (count($rows) > self::MOST_ROWS) {
            throw new SourceFailure(sprintf('The answer lists %s rows; at most %s fit.', number_format(count($rows)), number_format(self::MOST_ROWS)));
        }
        $paths = array_map(JsonPath::read(...), $list->paths());

        return array_map(fn (mixed $row): array => array_map(fn (JsonPath $path): mixed => self::plain($path->in($row)), $paths), $rows);
    }

    private function body(OutsideList $list): string
    {
        $isStandIn = str_starts_with($list->address(), '{stand-in}');
        $address = str_replace('{stand-in}', (string) $this->standIn, $list->address());
        if ($isStandIn && (string) $this->standIn === '') {
            throw new SourceFailure('The stand-in does not run here.');
        }
        $client = HttpClient::create(['timeout' => 8, 'max_duration' => 25, 'max_redirects' => 2]);
        if (! $isStandIn && ! $list->mayBeInside()) {
            $client = new NoPrivateNetworkHttpClient($client);
        }
        $secret = $list->credentials() === null ? null : $this->secrets->decrypt($list->credentials());
        if ($list->credentials() !== null && $secret === null) {
            throw new SourceFailure('The credentials cannot be read any more: the installation\'s secret has changed. Give them again.');
        }
        try {
            $response = $client->request('GET', $address, ['headers' => ['Accept' => 'application/json', ...($secret === null ? [] : ['Authorization' => $secret])], 'buffer' => false]);
            $status = $response->getStatusCode();
            $body = '';
            foreach ($client->stream($response) as $chunk) {
                $body .= $chunk->getContent();
                if (strlen($body) > self::MOST_BYTES) {
                    $response->cancel();
                    throw new SourceFailure('The answer is larger than 20 MB.');
                }
            }
        } catch (ExceptionInterface $error) {
            throw new SourceFailure(match (true) {
                str_contains($error->getMessage(), 'is blocked') => 'The address lies on this network, and the list does not say that it may.',
                str_contains(strtolower($error->getMessage()), 'timeout') || str_contains($error->getMessage(), 'timed out') || str_contains($error->getMessage(), 'Max duration') => 'It did not answer in time.',
                default => 'It could not be reached: '.(string) preg_replace('~ for "[^"]*"~', '', $error->getMessage()),
            });
        }

        return self::readable($status, $body);
    }

    private static function readable(int $status, string $body): string
    {
        if ($status >= 400) {
            throw new SourceFailure(sprintf('It answered with status %d%s.', $status, match ($status) {
                401, 403 => ', which is about the credentials', 404 => ': there is nothing at this address', default => ''
            }));
        }
        if (json_decode($body, true, 64) === null) {
            throw new SourceFailure(preg_match('~^\s*<~', $body) === 1 ? 'It answered with a web page (HTML) and not with JSON.' : 'The answer is not readable JSON.');
        }

        return $body;
    }

    /** A value as a cell: lists of plain values stay lists, what is deeper is not taken. */
    private static function plain(mixed $value): mixed
    {
        return match (true) {
            is_array($value) => array_is_list($value) ? array_values(array_filter($value, is_scalar(...))) : null,
            is_float($value) => json_decode((string) json_encode($value)),
            default => $value,
        };
    }
}
