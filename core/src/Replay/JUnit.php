<?php

declare(strict_types=1);

namespace Sorvel\Core\Replay;

/** A report as the XML that build servers read: a suite a file, a test case a sample. */
final class JUnit
{
    /**
     * @param  array<string, Sample>  $samples  by key
     * @param  array<string, string>  $fileOf  by key of the sample
     * @param  float  $seconds  that all took together
     */
    public static function of(Report $report, array $samples, array $fileOf, float $seconds): string
    {
        $document = new \DOMDocument('1.0', 'UTF-8');
        $document->formatOutput = true;
        $suites = self::element($document, $document, 'testsuites', ['name' => 'samples', 'tests' => (string) count($report->results), 'failures' => (string) $report->count(Verdict::Differs), 'errors' => (string) $report->count(Verdict::Broken), 'time' => sprintf('%.3f', $seconds)]);
        $byFile = [];
        foreach ($report->results as $result) {
            $byFile[$fileOf[$result->key] ?? ''][] = $result;
        }
        foreach ($byFile as $file => $results) {
            $count = fn (Verdict $v): string => (string) count(array_filter($results, fn (SampleResult $r): bool => $r->verdict === $v));
            $suite = self::element($document, $suites, 'testsuite', ['name' => (string) $file, 'tests' => (string) count($results), 'failures' => $count(Verdict::Differs), 'errors' => $count(Verdict::Broken)]);
            foreach ($results as $result) {
                $case = self::element($document, $suite, 'testcase', ['name' => $samples[$result->key]->title ?? $result->key, 'classname' => $result->key, 'file' => (string) $file]);
                if ($result->verdict !== Verdict::Agrees) {
                    $told = implode("\n", $result->told());
                    $failure = self::element($document, $case, $result->verdict === Verdict::Broken ? 'error' : 'failure', ['message' => strtok($told, "\n") ?: 'differs', 'type' => $result->verdict->value]);
                    $failure->appendChild($document->createTextNode(self::printable($told)));
                }
            }
        }

        return (string) $document->saveXML();
    }

    /** @param  array<string, string>  $attributes */
    private static function element(\DOMDocument $document, \DOMNode $in, string $name, array $attributes): \DOMElement
    {
        $element = $document->createElement($name);
        foreach ($attributes as $key => $value) {
            $element->setAttribute($key, self::printable($value));
        }
        $in->appendChild($element);

        return $element;
    }

    /** XML 1.0 has no place for control characters. */
    private static function printable(string $text): string
    {
        return (string) preg_replace('~[^\x{9}\x{A}\x{D}\x{20}-\x{D7FF}\x{E000}-\x{FFFD}\x{10000}-\x{10FFFF}]~u', '�', $text);
    }
}
