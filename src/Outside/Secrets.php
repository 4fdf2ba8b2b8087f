<?php

declare(strict_types=1);

namespace Sorvel\App\Outside;

use Symfony\Component\DependencyInjection\Attribute\Autowire;

/** Credentials lie encrypted in the database, under a key that follows from the installation's secret. */
final class Secrets
{
    public function __construct(#[Autowire('%env(APP_SECRET)%')] private readonly string $secret)
    {
    }

    public function encrypt(string $plain): string
    {
        $nonce = random_bytes(SODIUM_CRYPTO_SECRETBOX_NONCEBYTES);

        return base64_encode($nonce.sodium_crypto_secretbox($plain, $nonce, $this->key()));
    }

    /** @return string|null null when it was encrypted under another secret */
    public function decrypt(string $encrypted): ?string
    {
        $raw = (string) base64_decode($encrypted, true);
        $nonce = substr($raw, 0, SODIUM_CRYPTO_SECRETBOX_NONCEBYTES);
        $plain = strlen($nonce) < SODIUM_CRYPTO_SECRETBOX_NONCEBYTES ? false : sodium_crypto_secretbox_open(substr($raw, strlen($nonce)), $nonce, $this->key());

        return $plain === false ? null : $plain;
    }

    private function key(): string
    {
        return sodium_crypto_generichash('outside lists|'.$this->secret, '', SODIUM_CRYPTO_SECRETBOX_KEYBYTES);
    }
}
