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
use Sorvel\Core\Feel\UnaryTests;
use Sorvel\Core\Feel\Walk;
use Sorvel\Core\Feel\Warnings;
use Sorvel\Core\Format\Nearest;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\FieldType;
use Sorvel\Core\Model\PersonView;
use Sorvel\Core\Model\TeamView;

/**
 * Finds, without running a formula, names, options, people and functions that are not there, and comparisons that can
 * never hold. Errors carry offsets into the formula.
 */
final class FormulaCheck
{
    /** Built-in fields whose types are still to come. */
    private const NOT_YET = ['created_at', 'changed_at'];

    /** @var list<FeelError> */
    private array $errors = [];

    private function __construct(private readonly Names $names)
    {
    }

    /** @return list<FeelError> */
    public static function formula(Formula $formula, Names $names, ?KnownType $must = null): array
    {
        $check = new self($names);
        $type = $check->type($formula->tree, $names->names);
        if ($must !== null && ! $must->comparable($type)) {
            $check->error($formula->tree, sprintf('This must be %s, not %s.', $must->say(), $type->say()));
        }

        return $check->errors;
    }

    /** What is known of a formula's value. */
    public static function typeOf(Formula $formula, Names $names): KnownType
    {
        return (new self($names))->type($formula->tree, $names->names);
    }

    /** @return list<FeelError> */
    public static function condition(Formula $formula, Names $names): array
    {
        $errors = self::formula($formula, $names, new KnownType('yes_no'));
        $check = new self($names);
        $check->constant($formula->tree, 'This condition is always %s; leave it out, or let it look at a field.');

        return [...$errors, ...$check->errors];
    }

    /** @return list<FeelError> */
    public static function tests(UnaryTests $tests, KnownType $of, Names $names): array
    {
        $check = new self($names);
        $inner = [...$names->names, '?' => $of];
        foreach ($tests->tests as $test) {
            $check->test($test, $of, $inner);
        }

        return $check->errors;
    }

    /**
     * A formula whose value goes into a field: literals are held to its type and options.
     *
     * @return list<FeelError>
     */
    public static function value(Formula $formula, Field $field, Names $names): array
    {
        $check = new self($names);
        $check->type($formula->tree, $names->names);
        $check->fits($formula->tree, KnownType::ofField($field, $names->types), $field);

        return $check->errors;
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
                foreach ($node->parts() as $part) {
                    $this->type($part, $known);
                }

                return new KnownType('yes_no');
            case ListOf::class:
                foreach ($node->items as $item) {
                    $this->type($item, $known);
                }

                return new KnownType('list');
            case RangeOf::class:
                foreach ($node->parts() as $part) {
                    $this->type($part, $known);
                }

                return KnownType::any();
            case ContextOf::class:
                foreach ($node->entries as [$key, $value]) {
                    $known[$key] = $this->type($value, $known);
                }

                return new KnownType('context');
            case Quantified::class:
            case ForReturn::class:
                $known['partial'] = new KnownType('list');
                foreach ($node->iterators as [$name, $list]) {
                    $this->type($list, $known);
                    $known[$name] = KnownType::any();
                }
                $this->type($node instanceof Quantified ? $node->satisfies : $node->return, $known);

                return new KnownType($node instanceof Quantified ? 'yes_no' : 'list');
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
            return $known[$node->name];
        }
        $function = Functions::find($node->name);
        if ($function !== null) {
            return new KnownType('function', arity: [$function->required, $function->most]);
        }
        if (in_array($node->name, self::NOT_YET, true)) {
            $this->error($node, sprintf('%s in formulas is not supported yet.', $node->name), true);
        } else {
            $near = Nearest::to($node->name, [...array_map(strval(...), array_keys($known)), ...array_keys(Functions::all())]);
            $this->error($node, sprintf('"%s" is not known here%s', $node->name, $near === null ? '. A text stands in quotes.' : '; did you mean "'.$near.'"?'));
        }

        return KnownType::any();
    }

    /** @param  array<string, KnownType>  $known */
    private function path(Path $node, array $known): KnownType
    {
        $of = $this->type($node->of, $known);
        $parts = match ($of->what) {
            'record' => $of->type === null ? null : ['id' => new KnownType('text'), ...array_map(fn (Field $f): KnownType => KnownType::ofField($f, $this->names->types), $of->type->fields)],
            'person' => array_fill_keys(PersonView::NAMES, KnownType::any()) + [],
            'team' => array_fill_keys(TeamView::NAMES, KnownType::any()) + [],
            'number', 'text', 'yes_no', 'choice' => [],
            default => null,
        };
        if ($parts === null) {
            return KnownType::any();
        }
        if ($of->what === 'person') {
            $parts = [...$parts, 'team' => new KnownType('team'), 'key' => new KnownType('text'), 'name' => new KnownType('text'), 'email' => new KnownType('text'), 'active' => new KnownType('yes_no'), 'away' => new KnownType('yes_no')];
        }
        if ($parts === []) {
            $this->error($node, sprintf('%s has no parts, so ".%s" leads nowhere.', ucfirst($of->say()), $node->name));
        } elseif (! isset($parts[$node->name])) {
            $near = Nearest::to($node->name, array_map(strval(...), array_keys($parts)));
            $this->error($node, sprintf('%s has no "%s"%s', ucfirst($of->say()), $node->name, $near === null ? '.' : '; did you mean "'.$near.'"?'));
        }

        return $parts[$node->name] ?? KnownType::any();
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

    /** @param  array<string, KnownType>  $known */
    private function filter(Filter $node, array $known): KnownType
    {
        $of = $this->type($node->of, $known);
        $inner = new self($this->names);
        $inner->type($node->by, [...$known, 'item' => KnownType::any()]);
        foreach ($inner->errors as $error) {
            if (! str_contains($error->getMessage(), 'is not known here')) {
                $this->errors[] = $error;
            }
        }

        return $of->what === 'list' ? KnownType::any() : $of;
    }

    /** @param  array<string, KnownType>  $known */
    private function call(Call $node, array $known): KnownType
    {
        $function = $this->type($node->function, $known);
        foreach ($node->arguments as $argument) {
            $this->type($argument, $known);
        }
        if ($node->function instanceof Name && $function->what !== 'function' && ($builtIn = Functions::find($node->function->name)) !== null) {
            $function = new KnownType('function', arity: [$builtIn->required, $builtIn->most]);
        }
        if (! in_array($function->what, ['function', 'any', 'context'], true)) {
            $this->error($node->function, sprintf('This is %s and cannot be called.', $function->say()));
        }
        $given = count($node->arguments);
        if ($function->arity !== null && ($given < $function->arity[0] || ($function->arity[1] !== null && $given > $function->arity[1]))) {
            $most = $function->arity[1];
            $this->error($node, sprintf('%s needs %s argument%s, not %d.', $node->function instanceof Name ? $node->function->name : 'This', $most === null ? 'at least '.$function->arity[0] : ($most === $function->arity[0] ? (string) $most : $function->arity[0].' to '.$most), $most === 1 ? '' : 's', $given));
        }

        return KnownType::any();
    }

    /** @param  array<string, KnownType>  $known */
    private function test(Node $test, KnownType $of, array $known): void
    {
        if ($test instanceof AnyValue) {
            return;
        }
        if ($test instanceof UnaryComparison) {
            $right = $this->type($test->right, $known);
            $this->option($test->right, $of);
            if (! $of->comparable($right)) {
                $this->error($test, sprintf('%s is compared with %s.', ucfirst($of->say()), $right->say()));
            }

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
        if ($test instanceof Literal) {
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
            if ($type->what !== 'list' && ! $type->comparable($given)) {
                $this->error($node, sprintf('%s takes %s, not %s.', $field->label, $field->type === FieldType::Number ? 'a number' : $type->say(), $given->say()));
            }
        }
    }

    private function error(Node $node, string $message, bool $unsupported = false): void
    {
        $this->errors[] = new FeelError($message, $node->from, $node->to, null, $unsupported);
    }
}
