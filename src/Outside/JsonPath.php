<?php

declare(strict_types=1);

namespace Sorvel\App\Outside;

/** A JSONPath (RFC 9535) of plain steps: $.data.items, $['odd name'], tags[0]; the $ may be left out, [*] may stand at the end. */
final class JsonPath
{
    /** @param  list<string|int>  $steps */
    private function __construct(private readonly array $steps)
    {
    }

    /** @throws \InvalidArgumentException */
    public static function read(string $path): self
    {
        $rest = (string) preg_replace('~^\$|\[\*\]$~', '', trim($path));
        $steps = [];
        while ($rest !== '') {
            if (preg_match('~^\.?([\p{L}\p{N}_-]+)~u', $rest, $match) === 1) {
                $steps[] = $match[1];
            } elseif (preg_match('~^\[(\d{1,6})\]~', $rest, $match) === 1) {
                $steps[] = (int) $match[1];
            } elseif (preg_match('~^\[(?:\'([^\']+)\'|"([^"]+)")\]~', $rest, $match) === 1) {
                $steps[] = $match[1] === '' ? $match[2] ?? '' : $match[1];
            } else {
                throw new \InvalidArgumentException(sprintf('"%s" is not a path that is understood here; examples are $.data.items and address.town.', mb_strimwidth($path, 0, 60, '…')));
            }
            $rest = substr($rest, strlen($match[0]));
        }

        return new self($steps);
    }

    public function in(mixed $data): mixed
    {
        foreach ($this->steps as $step) {
            if (! is_array($data) || ! array_key_exists($step, $data)) {
                return null;
            }
            $data = $data[$step];
        }

        return $data;
    }
}
