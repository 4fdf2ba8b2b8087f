<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

use Sorvel\Core\Mirror\Course;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Rulebook;

/** Places of a type's rules as bits, sixty to a word: those that a kind of event wakes, and those that watch a field. */
final class Watchers
{
    private const BITS = 60;

    /** @var list<int> a word for each sixty rules, all empty */
    public readonly array $none;

    /** @var array<string, list<int>> by kind of event, the rules that start on it */
    public readonly array $starting;

    /** @var array<string, array<int, int>> by field, the words in which rules watch it */
    private readonly array $watching;

    private readonly Course $course;

    public function __construct(Rulebook $rulebook, RecordType $type)
    {
        $this->none = array_fill(0, intdiv(count($rulebook->rulesOn($type->key)), self::BITS) + 1, 0);
        $starting = [];
        foreach (EventKind::cases() as $kind) {
            $starting[$kind->value] = $this->words($rulebook->startingOn($type->key, $kind->value)) + $this->none;
        }
        $starting['related'] = $this->words($rulebook->startingOn($type->key, 'related')) + $this->none;
        $this->starting = array_map(function (array $words): array {
            ksort($words);

            return array_values($words);
        }, $starting);
        $this->watching = array_map($this->words(...), $rulebook->watching($type->key));
        $this->course = $rulebook->course($type->key);
    }

    /** @return array{int, int} the word and the bit of a place */
    public static function at(int $place): array
    {
        return [intdiv($place, self::BITS), 1 << $place % self::BITS];
    }

    /**
     * @param  array<int, true>  $places
     * @return array<int, int>
     */
    private function words(array $places): array
    {
        $words = [];
        foreach ($places as $place => $_) {
            [$word, $bit] = self::at($place);
            $words[$word] = ($words[$word] ?? 0) | $bit;
        }

        return $words;
    }

    /**
     * A field has changed: those below the place look in this pass still, those above in the next.
     *
     * @param  int  $place  of the rule that changed it; -1 before a pass
     * @param  array<int, int>  $due
     * @param  array<int, int>  $next
     */
    public function wake(string $field, int $place, array &$due, array &$next): void
    {
        foreach ($this->split($field, $place) as $word => [$below, $above]) {
            $due[$word] |= $below;
            $next[$word] |= $above;
        }
    }

    /**
     * The same written out, over $d and $n; and in $g a bit for what follows from the change within the record.
     *
     * @param  array<string, int>  $ends  bits of derived fields that nothing else follows
     */
    public function woken(string $field, int $place, array $ends = []): string
    {
        $follows = 0;
        foreach ($this->course->limits($field) === [] ? array_keys($this->course->after($field)) : [] as $step) {
            $follows |= $ends[$step] ?? 1;
        }
        $follows = $this->course->limits($field) === [] ? $follows : 1;
        $code = $follows === 0 ? '' : sprintf('$g|=%d;', $follows);
        foreach ($this->split($field, $place) as $word => [$below, $above]) {
            $code .= $below === 0 ? '' : sprintf('$d[%d]|=%d;', $word, $below);
            $code .= $above === 0 ? '' : sprintf('$n[%d]|=%d;', $word, $above);
        }

        return $code;
    }

    /** Whether mirrors, derived fields or limited choices look at it. */
    public function isFollowed(string $field): bool
    {
        return $this->course->after($field) !== [] || $this->course->limits($field) !== [];
    }

    /** @return array<int, array{int, int}> by word, those below a place and those above it */
    private function split(string $field, int $place): array
    {
        $split = [];
        [$at, $bit] = $place < 0 ? [-1, 0] : self::at($place);
        foreach ($this->watching[$field] ?? [] as $word => $mask) {
            $below = $word > $at ? $mask : ($word < $at ? 0 : $mask & ~(($bit << 1) - 1));
            $split[$word] = [$below, $mask & ~$below];
        }

        return $split;
    }
}
