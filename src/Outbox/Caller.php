<?php

declare(strict_types=1);

namespace Sorvel\App\Outbox;

use Sorvel\App\Outside\Secrets;
use Symfony\Component\DependencyInjection\Attribute\Autowire;
use Symfony\Component\HttpClient\HttpClient;
use Symfony\Component\HttpClient\NoPrivateNetworkHttpClient;
use Symfony\Contracts\HttpClient\Exception\ExceptionInterface;

/** Makes a web call, to addresses that are allowed only, and never follows where it is sent on. */
final class Caller
{
    private const MOST_BYTES = 1_000_000;

    public function __construct(
        private readonly Addresses $addresses,
        private readonly Secrets $secrets,
        #[Autowire('%env(default::SORVEL_STAND_IN)%')] private readonly ?string $standIn,
        #[Autowire('%env(int:default:sorvel.call_seconds:SORVEL_CALL_SECONDS)%')] private readonly int $seconds,
    ) {
    }

    public function call(Outgoing $outgoing): Answer
    {
        $endpoint = $outgoing->text('endpoint');
        $allowed = $this->addresses->allowing($endpoint);
        if ($allowed === null) {
            return new Answer(null, null, sprintf('Calls to %s are not allowed; an administrator can allow the address.', mb_strimwidth($endpoint, 0, 120, '…')), false);
        }
        $method = $outgoing->text('method') === '' ? 'POST' : $outgoing->text('method');
        $client = HttpClient::create(['timeout' => $this->seconds, 'max_duration' => $this->seconds * 2, 'max_redirects' => 0]);
        if ($allowed->isStandIn) {
            if ((string) $this->standIn === '') {
                return new Answer(null, null, 'The address goes to the stand-in, which does not run here.', false);
            }
            $endpoint = $this->standIn.'/calls/'.rawurlencode($outgoing->name).'?method='.$method.'&to='.rawurlencode($endpoint);
            $method = 'POST';
        } elseif (! $allowed->mayBeInside) {
            $client = new NoPrivateNetworkHttpClient($client);
        }
        $secret = $allowed->credentials === null ? null : $this->secrets->decrypt($allowed->credentials);
        if ($allowed->credentials !== null && $secret === null) {
            return new Answer(null, null, 'The credentials of the address cannot be read any more: the installation\'s secret has changed.', false);
        }
        $headers = array_filter(is_array($outgoing->data['headers'] ?? null) ? $outgoing->data['headers'] : [], is_string(...));
        $options = ['headers' => [...$headers, 'Accept' => 'application/json', 'Idempotency-Key' => $outgoing->token, ...($secret === null ? [] : ['Authorization' => $secret])], 'buffer' => false];
        if ($method !== 'GET') {
            $options['body'] = (string) json_encode($outgoing->data['body'] ?? null, JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES);
            $options['headers']['Content-Type'] = 'application/json';
        }
        try {
            $response = $client->request($method, $endpoint, $options);
            $status = $response->getStatusCode();
            $body = '';
            foreach ($client->stream($response) as $chunk) {
                $body .= $chunk->getContent();
                if (strlen($body) > self::MOST_BYTES) {
                    $response->cancel();

                    return new Answer($status, null, 'The answer is larger than 1 MB, and was not read to its end.', false);
                }
            }
        } catch (ExceptionInterface $error) {
            $message = $error->getMessage();

            return match (true) {
                str_contains($message, 'is blocked') => new Answer(null, null, 'The address lies on this network, and it is not said that calls may go there.', false),
                str_contains(strtolower($message), 'timeout') || str_contains($message, 'timed out') || str_contains($message, 'Max duration') => new Answer(null, null, 'It did not answer in time.', true),
                default => new Answer(null, null, 'It could not be reached: '.(string) preg_replace('~ for "[^"]*"~', '', $message), true),
            };
        }

        return new Answer($status, mb_scrub($body), match (true) {
            $status >= 400 => sprintf('It answered with status %d.', $status),
            $status >= 300 => sprintf('It sends on to somewhere else (status %d), which is not followed.', $status),
            default => '',
        }, $status >= 500 || $status === 429 || $status === 408);
    }
}
