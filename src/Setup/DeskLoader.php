<?php

declare(strict_types=1);

namespace Sorvel\App\Setup;

use Doctrine\ORM\EntityManagerInterface;
use Psr\Clock\ClockInterface;
use Sorvel\App\Draft\DraftPart;
use Sorvel\App\Draft\PartKind;
use Sorvel\App\Edition\Publisher;
use Sorvel\App\People\Person;
use Sorvel\App\People\Role;
use Sorvel\Core\Format\InputError;
use Sorvel\Core\Format\InvalidInput;
use Sorvel\Core\Format\RulebookReader;
use Sorvel\Core\Format\SamplesReader;
use Sorvel\Core\Format\Writer;

/** Puts a rulebook and its samples, from files in the open format, on a desk that has none yet. */
final class DeskLoader
{
    public function __construct(
        private readonly EntityManagerInterface $entities,
        private readonly ClockInterface $clock,
        private readonly Publisher $publisher,
    ) {
    }

    public function hasDesk(): bool
    {
        return $this->entities->getRepository(DraftPart::class)->count(['kind' => PartKind::Desk]) > 0;
    }

    /**
     * @param  list<string>  $sampleFiles
     *
     * @throws InvalidInput
     */
    public function load(string $rulebookFile, array $sampleFiles, string $note): void
    {
        $tree = RulebookReader::tree($this->text($rulebookFile), $rulebookFile);
        $parts = [[PartKind::Desk, 'desk', array_intersect_key($tree, array_flip(['desk', 'title', 'timezone', 'approval', 'teams']))]];
        foreach ([PartKind::Types, PartKind::Tables, PartKind::Rules, PartKind::Guards, PartKind::Mirrors] as $kind) {
            foreach (is_array($tree[$kind->value] ?? null) ? $tree[$kind->value] : [] as $part) {
                $parts[] = [$kind, (string) $part['key'], Writer::normal($part, 'rulebook')];
            }
        }
        foreach ($sampleFiles as $file) {
            foreach (SamplesReader::trees($this->text($file), $file) as $sample) {
                $parts[] = [PartKind::Samples, is_string($sample['key']) ? $sample['key'] : '', Writer::normal($sample, 'samples')];
            }
        }
        $at = $this->clock->now();
        $this->entities->wrapInTransaction(function () use ($parts, $tree, $at): void {
            foreach (is_array($tree['people'] ?? null) ? $tree['people'] : [] as $person) {
                if ($this->entities->find(Person::class, $person['key']) === null) {
                    $this->entities->persist(new Person($person['key'], $person['name'], $person['email'] ?? $person['key'].'@invalid', Role::from($person['role'] ?? 'agent'), $person['active'] ?? true, $person['away'] ?? false));
                }
            }
            foreach ($parts as $position => [$kind, $key, $part]) {
                /** @var array<string, mixed> $part */
                $this->entities->persist(new DraftPart($kind, $key, $position, $part, null, $at));
            }
        });
        $this->publisher->publish($note, null);
    }

    private function text(string $file): string
    {
        $text = is_file($file) ? file_get_contents($file) : false;

        return $text === false ? throw new InvalidInput([new InputError('', 'This file cannot be read.', $file)]) : $text;
    }
}
