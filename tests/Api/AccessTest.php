<?php

declare(strict_types=1);

namespace Sorvel\Tests\Api;

use PHPUnit\Framework\TestCase;
use Sorvel\App\Access\Anyone;
use Sorvel\Tests\DemoDatabase;
use Symfony\Component\Security\Http\Attribute\IsGranted;

final class AccessTest extends TestCase
{
    private const PEOPLE = ['requester' => 'kit', 'agent' => 'rafi', 'builder' => 'ines', 'publisher' => 'hanne', 'administrator' => 'greta'];

    public static function setUpBeforeClass(): void
    {
        DemoDatabase::restore();
    }

    public function test_signing_in_and_out(): void
    {
        $client = new Client;
        self::assertStringContainsString('"person":null', $client->call('GET', '/api/session')->body);
        $before = $client->token;
        $answer = $client->call('POST', '/api/session', ['email' => 'INES@tolvane.example', 'password' => 'ferry-demo']);
        self::assertSame('Ines Calder', $answer->json()['person']['name']);
        self::assertNotSame($before, $client->token, 'the token changes with the session');
        self::assertMatchesRegularExpression('~httponly~i', $answer->headers['set-cookie'][0]);
        self::assertMatchesRegularExpression('~samesite=strict~i', $answer->headers['set-cookie'][0]);
        self::assertSame('ines@tolvane.example', $client->call('GET', '/api/session')->json()['person']['email']);
        self::assertSame(204, $client->call('DELETE', '/api/session')->status);
        self::assertSame(401, $client->call('GET', '/api/draft')->status);
    }

    public function test_a_wrong_password_and_an_inactive_person_learn_nothing(): void
    {
        foreach ([['ines@tolvane.example', 'wrong'], ['nobody@tolvane.example', 'ferry-demo'], ['nils@tolvane.example', 'ferry-demo']] as [$email, $password]) {
            $client = new Client;
            $client->call('GET', '/api/session');
            $answer = $client->call('POST', '/api/session', ['email' => $email, 'password' => $password]);
            self::assertSame([401, 'Email address and password do not fit together.'], [$answer->status, $answer->json()['title']]);
        }
    }

    public function test_sign_ins_are_slowed_after_failures(): void
    {
        $client = new Client;
        $client->call('GET', '/api/session');
        $attempt = fn (string $password): int => $client->call('POST', '/api/session', ['email' => 'oda@tolvane.example', 'password' => $password])->status;
        self::assertSame([401, 401, 401, 401, 401], array_map(fn (): int => $attempt('wrong'), range(1, 5)));
        self::assertSame(429, $attempt('ferry-demo'), 'even the right password waits');
        sleep(3);
        self::assertSame(200, $attempt('ferry-demo'));
    }

    public function test_no_token_nothing_changed(): void
    {
        $client = Client::as('ines');
        $part = $client->part('rules', 'rank_fault');
        $tree = ['title' => 'Forged'] + $part['tree'];
        foreach (['', 'wrong'] as $token) {
            $client->token = $token;
            self::assertSame(403, $client->save('rules', 'rank_fault', $tree, $part['version'])->status);
        }
        self::assertSame(403, $client->call('POST', '/api/tickets', ['type' => 'fault', 'values' => ['title' => 'x']])->status);
        self::assertSame($part, $client->part('rules', 'rank_fault'));
    }

    public function test_a_form_of_another_site_is_not_read(): void
    {
        $client = Client::as('ines');
        self::assertSame(415, $client->call('POST', '/api/tickets', '{"type":"fault","values":{"title":"x"}}', ['Content-Type' => 'text/plain'])->status);
    }

    public function test_every_route_states_its_role_in_code_and_contract(): void
    {
        $contract = Contract::get()->document['paths'];
        $listed = [];
        foreach ($this->routes() as $name => $route) {
            if (! str_starts_with($route['path'], '/api/')) {
                continue;
            }
            [$class, $method] = explode('::', $route['defaults']['_controller']);
            self::assertTrue(class_exists($class));
            $granted = [...(new \ReflectionMethod($class, $method))->getAttributes(IsGranted::class), ...(new \ReflectionClass($class))->getAttributes(IsGranted::class)];
            $anyone = (new \ReflectionClass($class))->getAttributes(Anyone::class);
            self::assertNotSame([], [...$granted, ...$anyone], $name.' names no role');
            $role = $granted === [] ? 'anyone' : strtolower(substr((string) $granted[0]->getArguments()[0], 5));
            $operation = $contract[$route['path']][strtolower($route['method'])] ?? null;
            self::assertNotNull($operation, $route['method'].' '.$route['path'].' is not in the contract');
            self::assertSame($role, $operation['x-role'], $route['path']);
            $listed[] = $route['method'].' '.$route['path'];
        }
        foreach ($contract as $path => $item) {
            foreach (array_diff(array_keys($item), ['parameters']) as $method) {
                self::assertContains(strtoupper((string) $method).' '.$path, $listed, 'the contract promises what is not there');
            }
        }
    }

    public function test_all_routes_with_all_roles(): void
    {
        $order = array_keys(self::PEOPLE);
        $clients = array_map(Client::as(...), self::PEOPLE);
        $walked = 0;
        foreach (Contract::get()->document['paths'] as $path => $item) {
            foreach (array_diff_key($item, ['parameters' => 1]) as $method => $operation) {
                if ($operation['x-role'] === 'anyone') {
                    continue;
                }
                $address = str_replace(['{kind}', '{key}', '{number}', '{id}', '{run}', '{type}', '{format}', '{report}', '{call}'], ['rules', 'nothing', '999', 'F-99999', '999999', 'nothing', 'csv', 'states', 'nothing'], (string) $path);
                $call = fn (Client $client): int => $client->call(strtoupper((string) $method), $address, $method === 'get' ? null : [], ['If-Match' => '"1"'])->status;
                $stranger = new Client;
                $stranger->call('GET', '/api/session');
                self::assertSame(401, $call($stranger), "$method $path for nobody");
                foreach ($clients as $role => $client) {
                    $may = array_search($role, $order, true) >= array_search($operation['x-role'], $order, true);
                    $status = $call($client);
                    self::assertSame($may, $status !== 403 && $status !== 401, "$method $path for $role gave $status");
                    $walked++;
                }
            }
        }
        self::assertGreaterThan(90, $walked);
    }

    public function test_headers_keep_scripts_and_frames_out(): void
    {
        $page = file_get_contents((string) getenv('SORVEL_URL').'/');
        self::assertIsString($page);
        self::assertStringNotContainsString('<script>', $page);
        $headers = implode("\n", $http_response_header);
        self::assertMatchesRegularExpression("~content-security-policy: .*script-src 'self';~i", $headers);
        self::assertStringContainsStringIgnoringCase("frame-ancestors 'none'", $headers);
        self::assertStringContainsStringIgnoringCase('x-content-type-options: nosniff', $headers);
        $api = (new Client)->call('GET', '/api/session')->headers;
        self::assertStringContainsString("default-src 'none'", $api['content-security-policy'][0]);
        self::assertStringContainsString('no-store', $api['cache-control'][0]);
        self::assertArrayNotHasKey('x-powered-by', $api);
    }

    /** @return array<string, array{path: string, method: string, defaults: array{_controller: string}}> */
    private function routes(): array
    {
        $out = shell_exec('php -d pcov.enabled=0 '.escapeshellarg(dirname(__DIR__, 2).'/bin/console.php').' debug:router --format=json');

        return json_decode((string) $out, true, 64, JSON_THROW_ON_ERROR);
    }
}
