<?php

declare(strict_types=1);

namespace Sorvel\Core\Format;

/** What stands behind a command's name: files, and options with or without a value. */
final class Arguments
{
    /**
     * @param  list<string>  $files
     * @param  array<string, string|true>  $options  by name, without dashes
     */
    private function __construct(public readonly array $files, public readonly array $options)
    {
    }

    /**
     * @param  list<string>  $arguments
     * @param  array<string, bool>  $known  option to whether it needs a value
     *
     * @throws InvalidInput for an option that is not known, or lacks its value
     */
    public static function of(array $arguments, array $known, string $usage): self
    {
        [$files, $options] = [[], []];
        while (($argument = array_shift($arguments)) !== null) {
            if (! str_starts_with($argument, '-')) {
                $files[] = $argument;

                continue;
            }
            $name = ltrim($argument, '-');
            if (! isset($known[$name]) || ! str_starts_with($argument, '--')) {
                throw new InvalidInput([new InputError('', sprintf('The option %s is not known. %s', $argument, $usage))]);
            }
            $value = $known[$name] ? array_shift($arguments) : true;
            $options[$name] = $value ?? throw new InvalidInput([new InputError('', sprintf('%s needs a value. %s', $argument, $usage))]);
        }

        return new self($files, $options);
    }

    public function has(string $option): bool
    {
        return isset($this->options[$option]);
    }

    public function value(string $option): ?string
    {
        $value = $this->options[$option] ?? null;

        return is_string($value) ? $value : null;
    }
}
