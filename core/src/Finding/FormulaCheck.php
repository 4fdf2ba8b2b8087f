<?php

declare(strict_types=1);

namespace Sorvel\Core\Finding;

use Sorvel\Core\Feel\Evaluator;
use Sorvel\Core\Feel\FeelError;
use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Feel\Functions;
use Sorvel\Core\Feel\MapScope;
use Sorvel\Core\Feel\Node;
use Sorvel\Core\Feel\Node\AnyValue;
use Sorvel\Core\Feel\Node\Arithmetic;
use Sorvel\Core\Feel\Node\Between;
use Sorvel\Core\Feel\Node\Call;
use Sorvel\Core\Feel\Node\Comparison;
use Sorvel\Core\Feel\Node\ContextOf;
use Sorvel\Core\Feel\Node\Filter;
use Sorvel\Core\Feel\Node\ForReturn;
use Sorvel\Core\Feel\Node\FunctionOf;
use Sorvel\Core\Feel\Node\IfThenElse;
use Sorvel\Core\Feel\Node\In;
use Sorvel\Core\Feel\Node\InstanceTest;
use Sorvel\Core\Feel\Node\ListOf;
use Sorvel\Core\Feel\Node\Literal;
use Sorvel\Core\Feel\Node\Logic;
use Sorvel\Core\Feel\Node\Name;
use Sorvel\Core\Feel\Node\Negation;
use Sorvel\Core\Feel\Node\Path;
use Sorvel\Core\Feel\Node\Quantified;
use Sorvel\Core\Feel\Node\RangeOf;
use Sorvel\Core\Feel\Node\UnaryComparison;
use Sorvel\Core\Feel\Node\UnaryNot;
use Sorvel\Core\Feel\Number;
use Sorvel\Core\Feel\Printer;
use Sorvel\Core\Feel\Temporal\Date;
use Sorvel\Core\Feel\Temporal\DateTime;
use Sorvel\Core\Feel\Temporal\DaysDuration;
use Sorvel\Core\Feel\Temporal\MonthsDuration;
use Sorvel\Core\Feel\UnaryTests;
use Sorvel\Core\Feel\Walk;
use Sorvel\Core\Feel\Warnings;
use Sorvel\Core\Format\Nearest;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\FieldType;
use Sorvel\Core\Model\RecordType;

/**
 * Finds, without running a formula, names, options, people and functions that are not there, and comparisons that can
 * never hold. Errors carry offsets into the formula.
 */
final class FormulaCheck
{
    /** @var list<FeelError> */
    private array $errors = [];

    /** @var list<Mention> */
    private array $mentions = [];

    private function __construct(private readonly Names $names)
    {
    }

    public static function formula(Formula $formula, Names $names, ?KnownType $must = null): Checked
    {
        $check = new self($names);
        $type = $check->type($formula->tree, $names->names);
        if ($must !== null && ! $must->comparable($type)) {
            $check->error($formula->tree, sprintf('This must be %s, not %s.', $must->say(), $type->say()));
        }

        return $check->checked($type);
    }

    public static function condition(Formula $formula, Names $names): Checked
    {
        $check = new self($names);
        $type = $check->type($formula->tree, $names->names);
        if (! (new KnownType('yes_no'))->comparable($type)) {
            $check->error($formula->tree, sprintf('This must be a yes/no, not %s.', $type->say()));
        }
        $check->constant($formula->tree, 'This condition is always %s; leave it out, or let it look at a field.');

        return $check->checked($type);
    }

    public static function tests(UnaryTests $tests, KnownType $of, Names $names): Checked
    {
        $check = new self($names);
        $inner = [...$names->names, '?' => $of];
        foreach ($tests->tests as $test) {
            $check->test($test, $of, $inner);
        }

        return $check->checked($of);
    }

    /** A formula whose value goes into a field: literals are held to its type and options. */
    public static function value(Formula $formula, Field $field, Names $names): Checked
    {
        $check = new self($names);
        $type = $check->type($formula->tree, $names->names);
        $check->fits($formula->tree, KnownType::ofField($field, $names->types), $field);

        return $check->checked($type);
    }

    private function checked(KnownType $type): Checked
    {
        return new Checked($type, $this->errors, $this->mentions);
    }

    /** @param  array<string, KnownType>  $known */
    private function type(Node $node, array $known): KnownType
    {
        switch ($node::class) {
            case Literal::class:
                return $this->literal($node);
            case Name::class:
                return $this->name($node, $known);
            case Path::class:
                return $this->path($node, $known);
            case Comparison::class:
                $left = $this->type($node->left, $known);
                $right = $this->type($node->right, $known);
                $this->compare($node, $left, $right, $node->left, $node->right);

                return new KnownType('yes_no');
            case Logic::class:
                foreach ($node->parts() as $part) {
                    $type = $this->type($part, $known);
                    $this->constant($part, 'This part of the condition is always %s.');
                    if (! in_array($type->what, ['yes_no', 'any', 'null'], true)) {
                        $this->error($part, sprintf('"%s" joins two conditions; this is %s.', $node->operator, $type->say()));
                    }
                }
                $never = Impossible::contradiction($node);
                if ($never !== null) {
                    $this->error($never, $node->operator === 'and'
                        ? 'The same is asked to be two things at once, so this is never met; write "or", or "in (…)".'
                        : 'It is always other than one of these, so this is always met; write "and", or "not(… in (…))".');
                }

                return new KnownType('yes_no');
            case Arithmetic::class:
                return $this->arithmetic($node, $known);
            case Negation::class:
                $of = $this->type($node->of, $known);

                return $of->what === 'any' ? $of : new KnownType('number');
            case IfThenElse::class:
                $this->type($node->condition, $known);
                $this->constant($node->condition, 'This condition is always %s, so one of the two values is never reached.');
                $then = $this->type($node->then, $known);
                $else = $this->type($node->else, $known);

                return $then->what === $else->what || $else->what === 'null' ? $then : ($then->what === 'null' ? $else : KnownType::any());
            case In::class:
                $of = $this->type($node->value, $known);
                foreach ($node->tests as $test) {
                    $this->test($test, $of, [...$known, '?' => $of]);
                }

                return new KnownType('yes_no');
            case Between::class:
                $of = $this->type($node->value, $known);
                foreach ([$node->low, $node->high] as $part) {
                    $type = $this->type($part, $known);
                    if (! $of->comparable($type)) {
                        $this->error($part, sprintf('%s is compared with %s.', ucfirst($of->say()), $type->say()));
                    }
                }
                if (Impossible::isEmptyRange(new RangeOf(true, $node->low, $node->high, true, $node->from, $node->to))) {
                    $this->error($node, 'The first end is above the second, so this is never met.');
                }

                return new KnownType('yes_no');
            case ListOf::class:
                $each = array_map(fn (Node $item): KnownType => $this->type($item, $known), $node->items);
                $alike = $each !== [] && count(array_unique(array_map(fn (KnownType $t): string => $t->what, $each))) === 1;

                return $alike ? KnownType::listOf($each[0]) : new KnownType('list');
            case RangeOf::class:
                foreach ($node->parts() as $part) {
                    $this->type($part, $known);
                }

                return KnownType::any();
            case ContextOf::class:
                $entries = [];
                foreach ($node->entries as [$key, $value]) {
                    $known[$key] = $entries[$key] = $this->type($value, $known);
                }

                return new KnownType('context', parts: $entries);
            case Quantified::class:
            case ForReturn::class:
                $known['partial'] = new KnownType('list');
                foreach ($node->iterators as [$name, $list]) {
                    $known[$name] = $this->type($list, $known)->each ?? KnownType::any();
                }
                $inner = $this->type($node instanceof Quantified ? $node->satisfies : $node->return, $known);

                return $node instanceof Quantified ? new KnownType('yes_no') : KnownType::listOf($inner);
            case FunctionOf::class:
                foreach ($node->parameters as [$name]) {
                    $known[$name] = KnownType::any();
                }
                $this->type($node->body, $known);

                return new KnownType('function');
            case InstanceTest::class:
                $this->type($node->value, $known);

                return new KnownType('yes_no');
            case Filter::class:
                return $this->filter($node, $known);
            case Call::class:
                return $this->call($node, $known);
        }

        return KnownType::any();
    }

    private function literal(Literal $node): KnownType
    {
        return new KnownType(match (true) {
            $node->value === null => 'null',
            is_bool($node->value) => 'yes_no',
            is_string($node->value) => 'text',
            Number::is($node->value) => 'number',
            default => 'any',
        });
    }

    /** @param  array<string, KnownType>  $known */
    private function name(Name $node, array $known): KnownType
    {
        if (isset($known[$node->name])) {
            $field = $this->names->of->fields[$node->name] ?? null;
            if ($field !== null && $known[$node->name] === $this->names->names[$node->name]) {
                $this->mention($field, $node->from, $node->to);
            }

            return $known[$node->name];
        }
        $function = Functions::find($node->name);
        if ($function !== null) {
            return new KnownType('function', arity: [$function->required, $function->most]);
        }
        $near = Nearest::to($node->name, [...array_map(strval(...), array_keys($known)), ...array_keys(Functions::all())]);
        $this->error($node, sprintf('"%s" is not known here%s', $node->name, $near === null ? '. A text stands in quotes.' : '; did you mean "'.$near.'"?'));

        return KnownType::any();
    }

    /** @param  array<string, KnownType>  $known */
    private function path(Path $node, array $known): KnownType
    {
        $of = $this->type($node->of, $known);
        $parts = $this->parts($of);
        if ($parts === null && $of->what === 'list' && $of->each !== null) {
            // the part of each in the list (10.3.2.5)
            $parts = $this->parts($of->each);
            $parts = $parts === null ? null : array_map(KnownType::listOf(...), $parts);
        }
        if ($parts === null) {
            return KnownType::any();
        }
        $type = $of->what === 'list' ? $of->each?->type : $of->type;
        if (isset($type->fields[$node->name])) {
            $this->mention($type->fields[$node->name], $node->to - strlen($node->name), $node->to);
        }
        if ($parts === []) {
            $this->error($node, sprintf('%s has no parts, so ".%s" leads nowhere.', ucfirst($of->say()), $node->name));
        } elseif (! isset($parts[$node->name])) {
            $near = Nearest::to($node->name, array_map(strval(...), array_keys($parts)));
            $this->error($node, sprintf('%s has no "%s"%s', ucfirst($of->say()), $node->name, $near === null ? '.' : '; did you mean "'.$near.'"?'));
        }

        return $parts[$node->name] ?? KnownType::any();
    }

    /** @return array<array-key, KnownType>|null what has a name in a value; null when that is not known */
    private function parts(KnownType $of): ?array
    {
        $text = new KnownType('text');

        return match ($of->what) {
            'record' => $of->type === null ? null : $this->partsOf($of->type),
            'person' => ['key' => $text, 'name' => $text, 'email' => $text, 'active' => new KnownType('yes_no'), 'away' => new KnownType('yes_no'), 'team' => new KnownType('team')],
            'team' => ['key' => $text, 'name' => $text, 'members' => KnownType::listOf($text)],
            'choice' => $of->field?->type === FieldType::TwoStepChoice ? ['key' => $text, 'label' => $text, 'parent' => new KnownType('choice', $of->field)] : [],
            'number', 'text', 'yes_no' => [],
            'context' => $of->parts,
            default => null,
        };
    }

    /** @return array<string, KnownType> */
    private function partsOf(?RecordType $type): array
    {
        return ['id' => new KnownType('text'), ...array_map(fn (Field $f): KnownType => KnownType::ofField($f, $this->names->types), $type->fields ?? [])];
    }

    /** @param  array<string, KnownType>  $known */
    private function arithmetic(Arithmetic $node, array $known): KnownType
    {
        $left = $this->type($node->left, $known);
        $right = $this->type($node->right, $known);
        $textual = ['text', 'choice'];
        foreach ([[$left, $node->left], [$right, $node->right]] as [$type, $part]) {
            if (in_array($type->what, ['yes_no', 'person', 'team', 'record'], true) || ($node->operator !== '+' && in_array($type->what, $textual, true))) {
                $this->error($part, sprintf('"%s" cannot be used with %s.', $node->operator, $type->say()));

                return KnownType::any();
            }
        }
        if ($node->operator === '+' && ((in_array($left->what, $textual, true) && $right->what === 'number') || ($left->what === 'number' && in_array($right->what, $textual, true)))) {
            $this->error($node, 'A text and a number cannot be added; turn the number into a text with string(…).');
        }

        return in_array($left->what, $textual, true) || in_array($right->what, $textual, true) ? new KnownType('text') : ($left->what === 'number' && $right->what === 'number' ? new KnownType('number') : KnownType::any());
    }

    /**
     * Inside a filter the parts of an item stand bare (10.3.2.5).
     *
     * @param  array<string, KnownType>  $known
     */
    private function filter(Filter $node, array $known): KnownType
    {
        $of = $this->type($node->of, $known);
        $item = $of->what === 'list' ? $of->each ?? KnownType::any() : $of;
        $inner = new self(match ($item->what) {
            'record' => $this->names->within($item->type),
            default => $this->names,
        });
        $parts = $item->what === 'record' ? array_intersect_key($inner->names->names, ['id' => true] + ($item->type->fields ?? [])) : $this->parts($item) ?? [];
        $by = $inner->type($node->by, [...$known, ...$parts, 'item' => $item]);
        $open = $item->what === 'any' || ($item->what === 'context' && $item->parts === null);
        foreach ($inner->errors as $error) {
            if (! $open || ! str_contains($error->getMessage(), 'is not known here')) {
                $this->errors[] = $error;
            }
        }
        array_push($this->mentions, ...$inner->mentions);
        if ($by->what === 'number') {
            return $item;
        }

        return $of->what === 'list' ? $of : KnownType::listOf($item);
    }

    /** @param  array<string, KnownType>  $known */
    private function call(Call $node, array $known): KnownType
    {
        $function = $this->type($node->function, $known);
        $given = [];
        foreach ($node->arguments as $place => $argument) {
            $type = $this->type($argument, $known);
            $takes = $function->parts[$place] ?? null;
            if ($takes !== null) {
                $this->option($argument, $takes);
                if (! $takes->comparable($type)) {
                    $this->error($argument, sprintf('%s is asked for here, not %s.', ucfirst($takes->say()), $type->say()));
                }
            }
            if (is_int($place)) {
                $given[$place] = $type;
            }
        }
        $name = $node->function instanceof Name ? $node->function->name : null;
        $builtIn = $name !== null && ($function->what !== 'function' || ! isset($known[$name])) ? Functions::find($name) : null;
        if ($builtIn !== null) {
            $function = new KnownType('function', arity: [$builtIn->required, $builtIn->most], each: BuiltIns::give($builtIn->name, $given));
        }
        if (! in_array($function->what, ['function', 'any', 'context'], true)) {
            $this->error($node->function, sprintf('This is %s and cannot be called.', $function->say()));
        }
        $count = count($node->arguments);
        if ($function->arity !== null && ($count < $function->arity[0] || ($function->arity[1] !== null && $count > $function->arity[1]))) {
            $most = $function->arity[1];
            $this->error($node, sprintf('%s needs %s argument%s, not %d.', $name ?? 'This', $most === null ? 'at least '.$function->arity[0] : ($most === $function->arity[0] ? (string) $most : $function->arity[0].' to '.$most), $most === 1 ? '' : 's', $count));
        }
        $first = $node->arguments[0] ?? null;
        $second = $node->arguments[1] ?? null;
        if ($name === 'changed' && $builtIn === null && $first instanceof Literal && is_string($first->value)) {
            $this->fieldNamed($first, $first->value);
        }
        if ($name === 'list contains' && $second instanceof Node && isset($given[0]->each)) {
            $this->option($second, $given[0]->each);
        }

        return $function->what === 'function' ? $function->each ?? KnownType::any() : KnownType::any();
    }

    /** A field's key written as a text. */
    private function fieldNamed(Literal $node, string $key): void
    {
        $field = $this->names->of->fields[$key] ?? null;
        if ($field !== null) {
            $this->mention($field, $node->from + 1, $node->to - 1);
        } elseif ($this->names->of !== null) {
            $near = Nearest::to($key, array_map(strval(...), array_keys($this->names->of->fields)));
            $this->error($node, sprintf('%s has no field "%s"%s', $this->names->of->title, $key, $near === null ? '.' : '; did you mean "'.$near.'"?'));
        }
    }

    /** @param  array<string, KnownType>  $known */
    private function test(Node $test, KnownType $of, array $known): void
    {
        if ($test instanceof AnyValue) {
            return;
        }
        if ($test instanceof RangeOf && Impossible::isEmptyRange($test)) {
            $this->error($test, 'There is nothing between these ends, so this test is never met.');
        }
        if ($test instanceof UnaryComparison) {
            $right = $this->type($test->right, $known);
            $this->option($test->right, $of);
            if (! $of->comparable($right)) {
                $this->error($test, sprintf('%s is compared with %s.', ucfirst($of->say()), $right->say()));
            }
            $this->bounded($test, $test->operator, $of, $test->right);

            return;
        }
        if ($test instanceof UnaryNot) {
            foreach ($test->tests as $inner) {
                $this->test($inner, $of, $known);
            }

            return;
        }
        if ($test instanceof ListOf) {
            foreach ($test->items as $item) {
                $this->test($item, $of, $known);
            }

            return;
        }
        $type = $this->type($test, $known);
        if (! $test instanceof Literal && $type->what === 'yes_no') {
            $this->constant($test, 'This test is always %s; write - when any value will do.');
        }
        if ($test instanceof RangeOf) {
            foreach ($test->parts() as $end) {
                $endType = $this->type($end, $known);
                if (! $of->comparable($endType)) {
                    $this->error($end, sprintf('%s is compared with %s.', ucfirst($of->say()), $endType->say()));
                }
            }
        }
        if ($test instanceof Literal) {
            $this->bounded($test, '=', $of, $test);
            $this->option($test, $of);
            if (! $of->comparable($type)) {
                $this->error($test, sprintf('%s can never be %s.', ucfirst($of->say()), $type->say()));
            }
            if ($of->what === 'list' && is_string($test->value)) {
                $this->error($test, sprintf('A list is never equal to one text; write list contains(?, %s).', Printer::quote($test->value)));
            }
        }
    }

    private function compare(Comparison $node, KnownType $left, KnownType $right, Node $leftNode, Node $rightNode): void
    {
        $this->option($rightNode, $left);
        $this->option($leftNode, $right);
        $foreign = $left->what === 'choice' && $right->what === 'choice' && array_intersect_key($left->field->options ?? [], $right->field->options ?? []) === [];
        if (! $left->comparable($right) || $foreign) {
            $this->error($node, sprintf('%s is compared with %s; the two can never be equal.', ucfirst($left->say()), $right->say()));
        }
        $this->bounded($node, $node->operator, $left, $rightNode);
        $this->bounded($node, Impossible::turned($node->operator), $right, $leftNode);
    }

    private function bounded(Node $at, string $operator, KnownType $left, Node $right): void
    {
        $message = Impossible::bounded($operator, $left, $right);
        if ($message !== null) {
            $this->error($at, $message);
        }
    }

    /** A condition that reads nothing, or compares something with itself, is no test. */
    private function constant(Node $node, string $message): void
    {
        $same = $node instanceof Comparison && Walk::readsAnyName($node) && (new Printer)->print($node->left) === (new Printer)->print($node->right);
        if (! $same && (Walk::readsAnyName($node) || $node instanceof Logic)) {
            return;
        }
        $value = $same ? in_array($node->operator, ['=', '<=', '>='], true) : (new Evaluator(new Warnings))->value($node, new MapScope);
        if (is_bool($value)) {
            $this->error($node, sprintf($message, $value ? 'yes' : 'no'));
        }
    }

    /** A text beside a choice, a person or a team must be one of them. */
    private function option(Node $node, KnownType $of): void
    {
        if (! $node instanceof Literal || ! is_string($node->value)) {
            return;
        }
        $known = match ($of->what) {
            'choice' => $of->field->options ?? null,
            'person' => $this->names->people,
            'team' => $this->names->teams,
            default => null,
        };
        if (isset($known[$node->value]) && $of->what === 'choice' && $of->field !== null) {
            $this->mentions[] = new Mention($of->field, $node->value, $node->from, $node->to);
        }
        if ($known === null || isset($known[$node->value])) {
            return;
        }
        $keys = array_map(strval(...), array_keys($known));
        $near = Nearest::to($node->value, $keys);
        $what = match ($of->what) {
            'choice' => 'an option of '.$of->field?->label, 'person' => 'a person', default => 'a team'
        };
        $this->error($node, sprintf('"%s" is not %s%s', $node->value, $what, $near !== null ? '; did you mean "'.$near.'"?' : (count($keys) <= 12 ? ': there are '.implode(', ', $keys).'.' : '.')));
    }

    private function fits(Node $node, KnownType $type, Field $field): void
    {
        if ($node instanceof IfThenElse) {
            $this->fits($node->then, $type, $field);
            $this->fits($node->else, $type, $field);

            return;
        }
        if ($node instanceof Literal && $node->value !== null) {
            $this->option($node, $type);
            $given = $this->literal($node);
            if ($type->what === 'list' && $type->each !== null) {
                $this->option($node, $type->each);
            }
            $written = is_string($node->value) && in_array($type->what, ['date', 'date_time', 'duration'], true) ? $this->written($node->value, $field) : null;
            if ($written !== null) {
                $this->error($node, $written);
            } elseif ($type->what !== 'list' && ! in_array($type->what, ['date', 'date_time', 'duration'], true) && ! $type->comparable($given)) {
                $this->error($node, sprintf('%s takes %s, not %s.', $field->label, $field->type === FieldType::Number ? 'a number' : $type->say(), $given->say()));
            }
        }
    }

    /** What is wrong with a date or a duration that is written as a text. */
    private function written(string $text, Field $field): ?string
    {
        $value = match ($field->type) {
            FieldType::Date => Date::parse($text),
            FieldType::DateTime => DateTime::parse($text),
            default => DaysDuration::parse($text) ?? MonthsDuration::parse($text),
        };

        return $value !== null ? null : sprintf('%s takes %s; write it as %s.', $field->label, KnownType::ofField($field, [])->say(), match ($field->type) {
            FieldType::Date => '@"2027-03-04"', FieldType::DateTime => '@"2027-03-04T09:00:00"', default => '@"P3D"'
        });
    }

    private function mention(Field $field, int $from, int $to): void
    {
        $this->mentions[] = new Mention($field, null, $from, $to);
    }

    private function error(Node $node, string $message, bool $unsupported = false): void
    {
        $this->errors[] = new FeelError($message, $node->from, $node->to, null, $unsupported);
    }
}
