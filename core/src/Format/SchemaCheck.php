<?php

declare(strict_types=1);

namespace Sorvel\Core\Format;

use Opis\JsonSchema\Errors\ValidationError;
use Opis\JsonSchema\Helper;
use Opis\JsonSchema\Validator;

/** Holds a tree against one of the two JSON Schemas (2020-12) and says in plain words what does not fit. */
final class SchemaCheck
{
    private static ?Validator $validator = null;

    /**
     * @param  'rulebook'|'samples'  $schema
     * @param  array<array-key, mixed>  $tree
     * @return list<InputError>
     */
    public static function errors(string $schema, array $tree, string $definition = ''): array
    {
        self::$validator ??= self::validator();
        $uri = 'sorvel:'.$schema.($definition === '' ? '' : '#/$defs/'.$definition);
        $result = self::$validator->validate(self::data($tree), $uri);
        $error = $result->error();
        if ($error === null) {
            return [];
        }
        $errors = [];
        self::collect($error, $errors);

        return array_values($errors);
    }

    private static function validator(): Validator
    {
        $validator = new Validator(max_errors: 20, stop_at_first_error: false);
        foreach (['rulebook', 'samples'] as $name) {
            $validator->resolver()?->registerRaw((string) file_get_contents(__DIR__.'/schema/'.$name.'.schema.json'), 'sorvel:'.$name);
        }

        return $validator;
    }

    /** An empty map and an empty list look the same in PHP; the schema tells which is meant by what it asks for. */
    private static function data(mixed $tree): mixed
    {
        return Helper::toJSON($tree);
    }

    /** @param  array<string, InputError>  $errors */
    private static function collect(ValidationError $error, array &$errors): void
    {
        if ($error->subErrors() !== []) {
            foreach ($error->subErrors() as $inner) {
                self::collect($inner, $errors);
            }

            return;
        }
        $path = implode('', array_map(fn (string|int $p): string => '/'.LineMap::escape((string) $p), $error->data()->fullPath()));
        $arguments = $error->args();
        if ($error->keyword() === 'additionalProperties') {
            $schema = $error->schema()->info()->data();
            $known = $schema instanceof \stdClass && isset($schema->properties) ? array_keys((array) $schema->properties) : [];
            foreach (array_diff((array) ($arguments['properties'] ?? []), $known) as $key) {
                $errors[$path.'/'.$key] = new InputError($path.'/'.LineMap::escape((string) $key), sprintf('The key "%s" is not known here%s', $key, self::proposal((string) $key, $known)));
            }

            return;
        }
        if ($error->keyword() === 'type' && ($arguments['expected'] ?? null) === 'object' && $error->data()->value() === []) {
            return;
        }
        $errors[$path.$error->keyword()] = new InputError($path, self::message($error, $arguments));
    }

    /** @param  list<string>  $known */
    private static function proposal(string $key, array $known): string
    {
        $near = Nearest::to($key, $known);
        if ($near !== null) {
            return sprintf('; did you mean "%s"?', $near);
        }

        return $known === [] ? '.' : sprintf('; known are: %s.', implode(', ', $known));
    }

    /** @param  array<string, mixed>  $arguments */
    private static function message(ValidationError $error, array $arguments): string
    {
        $words = ['string' => 'text', 'object' => 'mapping', 'array' => 'list', 'boolean' => 'true or false', 'integer' => 'whole number', 'number' => 'number', 'null' => 'null'];
        $named = fn (mixed $types): string => implode(' or ', array_map(fn (string $t): string => $words[$t] ?? $t, (array) $types));
        $schema = $error->schema()->info()->data();
        $value = json_encode($error->data()->value(), JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES);
        $shown = is_string($value) ? mb_strimwidth($value, 0, 60, '…') : 'this';

        return match ($error->keyword()) {
            'required' => sprintf('The key "%s" is missing.', implode('", "', (array) ($arguments['missing'] ?? []))),
            'type' => sprintf('Expected %s, found %s.', $named($arguments['expected'] ?? []), $shown),
            'enum' => sprintf('%s is not one of: %s.', $shown, $schema instanceof \stdClass ? implode(', ', array_map(fn (mixed $v): string => is_scalar($v) ? (string) $v : '?', (array) ($schema->enum ?? []))) : ''),
            'const' => sprintf('Expected %s, found %s.', json_encode($schema instanceof \stdClass ? $schema->const ?? null : null), $shown),
            'pattern' => sprintf('%s does not have the form %s.', $shown, $schema instanceof \stdClass && is_string($schema->pattern ?? null) ? $schema->pattern : ''),
            'minLength', 'minItems' => 'This must not be empty.',
            'minimum', 'maximum' => sprintf('%s is out of bounds.', $shown),
            default => sprintf('%s does not fit (%s).', $shown, $error->keyword()),
        };
    }
}
