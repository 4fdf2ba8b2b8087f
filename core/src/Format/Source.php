<?php

declare(strict_types=1);

namespace Sorvel\Core\Format;

use Symfony\Component\Yaml\Exception\ParseException;
use Symfony\Component\Yaml\Yaml;

/** A YAML 1.2 or JSON text: its tree, and the line on which each path stands. */
final class Source
{
    private const MAX_BYTES = 8_000_000;

    private ?LineMap $lines = null;

    /** @param  array<array-key, mixed>  $tree */
    private function __construct(public readonly string $file, private readonly string $text, public readonly array $tree)
    {
    }

    /** @throws InvalidInput */
    public static function read(string $text, string $file): self
    {
        if (strlen($text) > self::MAX_BYTES) {
            throw new InvalidInput([new InputError('', 'The file is larger than 8 MB.', $file)]);
        }
        if (! mb_check_encoding($text, 'UTF-8')) {
            throw new InvalidInput([new InputError('', 'The file is not valid UTF-8 text.', $file)]);
        }
        try {
            $tree = Yaml::parse($text, Yaml::PARSE_EXCEPTION_ON_INVALID_TYPE | Yaml::PARSE_DATETIME);
        } catch (ParseException $error) {
            $line = $error->getParsedLine();
            throw new InvalidInput([new InputError('', 'This is not readable YAML: '.preg_replace('~ at line \d+.*$~s', '.', $error->getMessage()), $file, $line > 0 ? $line : null)]);
        }
        if (! is_array($tree)) {
            throw new InvalidInput([new InputError('', 'The file must hold a mapping of keys.', $file, 1)]);
        }

        return new self($file, $text, self::plain($tree));
    }

    public function line(string $path): ?int
    {
        $this->lines ??= LineMap::of($this->text);

        return $this->lines->line($path);
    }

    public function located(InvalidInput $error): InvalidInput
    {
        return new InvalidInput(array_map(fn (InputError $e): InputError => $e->in($this->file, $this->line($e->path)), $error->errors));
    }

    /**
     * YAML reads an unquoted date as a moment; the format has it as ISO 8601 text.
     *
     * @param  array<array-key, mixed>  $tree
     * @return array<array-key, mixed>
     */
    private static function plain(array $tree): array
    {
        foreach ($tree as &$value) {
            if (is_array($value)) {
                $value = self::plain($value);
            } elseif ($value instanceof \DateTimeInterface) {
                $value = $value->format('H:i:s') === '00:00:00' ? $value->format('Y-m-d') : $value->format('Y-m-d\TH:i:s');
            }
        }

        return $tree;
    }
}
