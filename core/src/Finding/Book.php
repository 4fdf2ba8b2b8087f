<?php

declare(strict_types=1);

namespace Sorvel\Core\Finding;

use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Format\InvalidInput;
use Sorvel\Core\Format\RulebookBuilder;
use Sorvel\Core\Model\Rulebook;
use Sorvel\Core\Replay\Sample;
use Sorvel\Core\Rule\Rule;

/** A rulebook as checks look at it: built, as it is written, and with who reads and writes what. */
final class Book
{
    /** @var array<string, array<string, int>> by kind and key */
    private array $places = [];

    /** @var array<string, array<string, array<string, array{title: string}>>>|null */
    private ?array $users = null;

    /**
     * @param  array<array-key, mixed>  $tree
     * @param  list<Mention>  $mentions
     * @param  array<string, Names>  $names  by rule
     * @param  list<Sample>  $samples
     */
    private function __construct(public readonly Rulebook $rulebook, public readonly array $tree, public readonly array $mentions, private readonly array $names, public readonly array $samples)
    {
        foreach (['types', 'tables', 'rules', 'guards', 'mirrors'] as $list) {
            foreach ($this->parts($list) as $place => $part) {
                $this->places[$list][(string) $part['key']] = $place;
            }
        }
    }

    /**
     * @param  array<array-key, mixed>  $tree
     * @param  list<Sample>  $samples
     *
     * @throws InvalidInput
     */
    public static function of(array $tree, array $samples): self
    {
        [$rulebook, $mentions, $names] = RulebookBuilder::examined($tree);

        return new self($rulebook, $tree, $mentions, $names, $samples);
    }

    /** @return list<array<string, mixed>> the trees of one list, in order */
    public function parts(string $list): array
    {
        /** @var list<array<string, mixed>> */
        return array_values(is_array($this->tree[$list] ?? null) ? $this->tree[$list] : []);
    }

    /** @return array<string, mixed> */
    public function part(string $list, string $key): array
    {
        return $this->parts($list)[$this->places[$list][$key] ?? -1] ?? [];
    }

    /** Where a part stands among all, for an order of findings. */
    public function place(string $kind, string $key): int
    {
        return ((int) array_search($kind, ['rules', 'tables', 'guards', 'mirrors', 'types'], true)) * 100_000 + ($this->places[$kind][$key] ?? 99_999);
    }

    /** @return array{string, string, string}|null kind, key, and the pointer inside the part, of a pointer into the whole */
    public function locate(string $path): ?array
    {
        if (preg_match('~^/(types|tables|rules|guards|mirrors)/(\d+)(.*)$~', $path, $match) !== 1) {
            return null;
        }
        $part = $this->parts($match[1])[(int) $match[2]] ?? null;

        return $part === null ? null : [$match[1], (string) $part['key'], $match[3]];
    }

    /** @return list<Rule> those that are switched on, in running order */
    public function rules(): array
    {
        return array_values(array_filter($this->rulebook->rules, fn (Rule $r): bool => $r->enabled));
    }

    public function title(string $rule): string
    {
        return '"'.($this->rulebook->rules[$rule]->title ?? $rule).'"';
    }

    /** What is known of a formula of a rule before it runs. */
    public function known(Rule $rule, Formula $formula): KnownType
    {
        $names = $this->names[$rule->key] ?? null;

        return $names === null ? KnownType::any() : FormulaCheck::formula($formula, $names)->type;
    }

    /** @return array<string, array<string, true>> by rule: the fields that it changes, as type.field */
    public function written(): array
    {
        return array_map(fn (array $uses): array => array_map(fn (): true => true, $uses['writes'] ?? []), $this->users());
    }

    /** @return array<string, array<string, array<string, array{title: string}>>> by rule, then `reads` or `writes`, then type.field */
    public function users(): array
    {
        if ($this->users !== null) {
            return $this->users;
        }
        $users = array_map(fn (): array => ['reads' => [], 'writes' => []], $this->rulebook->rules);
        foreach ($this->mentions as $mention) {
            $at = $this->locate($mention->path);
            if ($at !== null && $at[0] === 'rules' && $mention->option === null) {
                $users[$at[1]][$mention->writes ? 'writes' : 'reads'][$mention->field->of.'.'.$mention->field->key] = ['title' => $mention->field->label];
            }
        }

        return $this->users = $users;
    }

    /** A field of a type, by its label with that of the type where several types have it. */
    public function label(string $typeField): string
    {
        [$type, $field] = explode('.', $typeField, 2) + [1 => ''];
        $of = $this->rulebook->types[$type] ?? null;

        return sprintf('%s of %s', ($of?->fields[$field] ?? null)->label ?? $field, mb_strtolower($of->title ?? $type));
    }

    /** @param  list<string>  $words */
    public static function and(array $words): string
    {
        $last = array_pop($words);

        return $words === [] ? (string) $last : implode(', ', $words).' and '.$last;
    }
}
