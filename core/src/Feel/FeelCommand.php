<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel;

use Sorvel\Core\Feel\Temporal\Date;
use Sorvel\Core\Feel\Temporal\DateTime;

/**
 * `feel 'EXPR' [--context JSON] [--unary JSON] [--now ISO]` or `feel --batch FILE`: one line of JSON for each formula.
 * Exit 0 when each line could be read, also when a formula has an error; 2 for unusable input.
 */
final class FeelCommand
{
    private const USAGE = "Usage: bin/sorvel feel 'EXPR' [--context JSON] [--unary JSON] [--now ISO]\n       bin/sorvel feel --batch FILE\n";

    /**
     * @param  resource  $out
     * @param  resource  $err
     */
    public function __construct(private $out, private $err)
    {
    }

    /** @param  list<string>  $arguments */
    public function run(array $arguments): int
    {
        $expression = null;
        $options = [];
        while (($argument = array_shift($arguments)) !== null) {
            if (in_array($argument, ['--context', '--unary', '--now', '--batch'], true)) {
                $value = array_shift($arguments);
                if ($value === null) {
                    return $this->unusable($argument.' needs a value.');
                }
                $options[substr($argument, 2)] = $value;
            } elseif ($expression === null) {
                $expression = $argument;
            } else {
                return $this->unusable(sprintf('"%s" is one argument too many.', $argument));
            }
        }
        if (isset($options['batch'])) {
            return $expression === null ? $this->batch($options['batch']) : $this->unusable('With --batch no formula is given.');
        }
        if ($expression === null) {
            return $this->unusable('A formula is missing.');
        }
        try {
            $context = isset($options['context']) ? Json::decode($options['context']) : null;
            $unary = isset($options['unary']) ? [Json::decode($options['unary'])] : null;
        } catch (\JsonException $error) {
            return $this->unusable('--context or --unary is not readable JSON: '.$error->getMessage().'.');
        }
        if ($context !== null && ! $context instanceof PlainContext) {
            return $this->unusable('--context must be a JSON object.');
        }
        $now = isset($options['now']) ? self::moment($options['now']) : self::clock();
        if ($now === null) {
            return $this->unusable('--now is not a date and time; an example is 2027-03-04T09:00:00Z.');
        }
        fwrite($this->out, self::line($expression, $context, $unary, $now)."\n");

        return 0;
    }

    private function batch(string $file): int
    {
        $handle = is_file($file) ? fopen($file, 'r') : false;
        if ($handle === false) {
            return $this->unusable(sprintf('The file %s cannot be read.', $file));
        }
        for ($number = 1; ($text = fgets($handle)) !== false; $number++) {
            if (trim($text) === '') {
                continue;
            }
            try {
                $row = Json::decode($text);
            } catch (\JsonException $error) {
                return $this->unusable(sprintf('%s:%d: not readable JSON: %s.', $file, $number, $error->getMessage()));
            }
            $context = $row instanceof PlainContext ? $row->get('context') : null;
            $now = $row instanceof PlainContext && is_string($row->get('now')) ? self::moment($row->get('now')) : self::clock();
            if (! $row instanceof PlainContext || ! is_string($row->get('expr')) || ($context !== null && ! $context instanceof PlainContext) || $now === null) {
                return $this->unusable(sprintf('%s:%d: a line is {"expr": text, "context"?: object, "unary"?: any, "now"?: date and time}.', $file, $number));
            }
            fwrite($this->out, self::line($row->get('expr'), $context, $row->has('unary') ? [$row->get('unary')] : null, $now)."\n");
        }

        return 0;
    }

    /** @param  array{mixed}|null  $unary the value to test, in a list of one */
    private static function line(string $expression, ?PlainContext $context, ?array $unary, DateTime $now): string
    {
        $scope = $context === null ? new MapScope : new ContextScope($context, new MapScope);
        $warnings = Warnings::at($now);
        try {
            $value = $unary === null ? Formula::parse($expression)->value($scope, $warnings) : UnaryTests::parse($expression)->hold($unary[0], $scope, $warnings);
        } catch (FeelError $error) {
            return '{"error":'.json_encode($error->toArray(), JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES | JSON_INVALID_UTF8_SUBSTITUTE).'}';
        }

        return '{"value":'.Json::encode($value).',"warnings":'.json_encode($warnings->all(), JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES | JSON_INVALID_UTF8_SUBSTITUTE).'}';
    }

    private static function moment(string $text): ?DateTime
    {
        return DateTime::parse($text) ?? Date::parse($text)?->midnight();
    }

    private static function clock(): DateTime
    {
        return DateTime::parse(gmdate('Y-m-d\TH:i:s').'Z') ?? throw new \LogicException('The clock shows no time.');
    }

    private function unusable(string $message): int
    {
        fwrite($this->err, $message."\n".self::USAGE);

        return 2;
    }
}
