<?php

declare(strict_types=1);

namespace Sorvel\Tests\Api;

use Opis\JsonSchema\Errors\ErrorFormatter;
use Opis\JsonSchema\Validator;
use Symfony\Component\Yaml\Yaml;

/** api/openapi.yaml, against which every answer in the tests is held. */
final class Contract
{
    private static ?self $instance = null;

    /** @var array<string, mixed> */
    public readonly array $document;

    private readonly Validator $validator;

    private function __construct()
    {
        $document = Yaml::parseFile(dirname(__DIR__, 2).'/api/openapi.yaml', Yaml::PARSE_OBJECT_FOR_MAP);
        $this->document = (array) Yaml::parseFile(dirname(__DIR__, 2).'/api/openapi.yaml');
        $this->validator = new Validator;
        $this->validator->resolver()?->registerRaw((string) json_encode($document), 'sorvel:api');
    }

    public static function get(): self
    {
        return self::$instance ??= new self;
    }

    /** @return string|null what does not fit, or null */
    public function mistake(string $path, string $method, int $status, string $body): ?string
    {
        foreach ($this->document['paths'] as $template => $item) {
            if (preg_match('~^'.preg_replace('~\\\\\{\w+\\\\\}~', '[^/]+', preg_quote((string) $template, '~')).'$~', $path) !== 1 || ! isset($item[strtolower($method)])) {
                continue;
            }
            // a fixed address comes before one with a placeholder
            if (str_contains((string) $template, '{') && isset($this->document['paths'][$path])) {
                continue;
            }
            $responses = $item[strtolower($method)]['responses'];
            if (! isset($responses[$status])) {
                // what any call may be answered: not signed in, not allowed, not readable, too large, no rulebook yet
                return in_array($status, [400, 401, 403, 404, 409, 413, 415, 422, 500], true) ? $this->against('#/components/schemas/Problem', $body) : sprintf('%s %s has no answer %d', $method, $template, $status);
            }
            $response = $responses[$status];
            if (isset($response['$ref'])) {
                return $this->against('#/components/schemas/Problem', $body);
            }
            $type = array_key_first($response['content'] ?? []);
            if ($type === null || ! in_array($type, ['application/json', 'application/problem+json'], true)) {
                return null;
            }
            $pointer = sprintf('#/paths/%s/%s/responses/%d/content/%s/schema', $this->escape((string) $template), strtolower($method), $status, $this->escape($type));

            return $this->against($pointer, $body);
        }

        return sprintf('%s %s is not in the contract', $method, $path);
    }

    private function against(string $pointer, string $body): ?string
    {
        $result = $this->validator->validate(json_decode($body), 'sorvel:api'.$pointer);
        $error = $result->error();

        return $error === null ? null : (string) json_encode((new ErrorFormatter)->format($error), JSON_PRETTY_PRINT | JSON_UNESCAPED_SLASHES);
    }

    private function escape(string $key): string
    {
        return rawurlencode(str_replace(['~', '/'], ['~0', '~1'], $key));
    }
}
