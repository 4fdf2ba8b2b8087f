<?php

declare(strict_types=1);

namespace Sorvel\Core\Format;

use Sorvel\Core\Finding\FormulaCheck;
use Sorvel\Core\Finding\KnownType;
use Sorvel\Core\Finding\Names;
use Sorvel\Core\Guard\Effect;
use Sorvel\Core\Guard\Guard;
use Sorvel\Core\Guard\ParentChange;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\FieldType;
use Sorvel\Core\Model\RecordType;

/** Guards. */
final class GuardBuilder
{
    /** Fields whose values come out of a list that can be limited. */
    private const LISTED = [FieldType::Choice, FieldType::Choices, FieldType::TwoStepChoice, FieldType::Reference, FieldType::References];

    /**
     * @param  \Closure(RecordType): Names  $namesOf
     * @param  array<string, RecordType>  $types
     */
    public function __construct(private readonly RulebookBuilder $book, private readonly \Closure $namesOf, private readonly array $types)
    {
    }

    /** @param  array<string, mixed>  $g */
    public function guard(array $g, string $path): ?Guard
    {
        $effect = Effect::from($g['effect']);
        $types = $this->book->typesOf($g['on'], $path.'/on', $this->types);
        $when = isset($g['when']) ? $this->book->formula($path.'/when', $g['when']) : null;
        $only = isset($g['only']) ? $this->book->formula($path.'/only', $g['only']) : null;
        if ($effect === Effect::Choices && ! isset($g['only'])) {
            $this->book->error($path, 'Limited choices need "only": which of them remain.');
        }
        foreach (['only', 'on_parent_change'] as $key) {
            if (isset($g[$key]) && $effect !== Effect::Choices) {
                $this->book->error($path.'/'.$key, sprintf('"%s" means something for the effect choices only.', $key));
            }
        }
        foreach ($types as $type) {
            $field = $this->book->fieldOf($type, $g['field'], $path.'/field');
            if ($field === null) {
                continue;
            }
            $names = ($this->namesOf)($type);
            if ($when !== null) {
                $this->book->take($path.'/when', FormulaCheck::condition($when, $names));
            }
            if ($only !== null && $effect === Effect::Choices) {
                $this->only($only, $field, $names, $path);
            }
            $this->fits($effect, $field, $path);
        }

        return $types === [] ? null : new Guard($g['key'], array_map(fn (RecordType $t): string => $t->key, $types), $g['field'], $effect, $when, $only, $g['reason'] ?? null, ParentChange::from($g['on_parent_change'] ?? 'clear'));
    }

    private function only(\Sorvel\Core\Feel\Formula $only, Field $field, Names $names, string $path): void
    {
        if (! in_array($field->type, self::LISTED, true)) {
            $this->book->error($path.'/effect', sprintf('%s has no list of choices to be limited; choices and references have.', $field->label));

            return;
        }
        if ($field->to !== null) {
            $names = $names->within($this->types[$field->to] ?? null);
        } else {
            $names = $names->with('key', new KnownType('choice', $field))->with('label', new KnownType('text'))->with('parent', new KnownType('choice', $field));
        }
        $this->book->take($path.'/only', FormulaCheck::condition($only, $names));
    }

    private function fits(Effect $effect, Field $field, string $path): void
    {
        if ($field->fixed) {
            $this->book->error($path.'/field', sprintf('%s is kept by the desk itself; it needs no guard.', $field->label));
        }
        if ($effect === Effect::Hidden && $field->required) {
            $this->book->error($path.'/effect', sprintf('%s is required, so it cannot be hidden.', $field->label));
        }
    }
}
