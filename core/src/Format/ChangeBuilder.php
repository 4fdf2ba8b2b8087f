<?php

declare(strict_types=1);

namespace Sorvel\Core\Format;

use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Finding\FormulaCheck;
use Sorvel\Core\Finding\KnownType;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\FieldType;
use Sorvel\Core\Rule\AddChange;
use Sorvel\Core\Rule\AffixChange;
use Sorvel\Core\Rule\AssignChange;
use Sorvel\Core\Rule\CallChange;
use Sorvel\Core\Rule\ChangeColumn;
use Sorvel\Core\Rule\ClearChange;
use Sorvel\Core\Rule\CreateChange;
use Sorvel\Core\Rule\FieldChange;
use Sorvel\Core\Rule\MessageChange;
use Sorvel\Core\Rule\NoteChange;
use Sorvel\Core\Rule\NotifyChange;
use Sorvel\Core\Rule\RaiseChange;
use Sorvel\Core\Rule\RefuseChange;
use Sorvel\Core\Rule\RemoveChange;
use Sorvel\Core\Rule\SetChange;
use Sorvel\Core\Rule\When;

/** Change columns. A new kind is registered here. */
final class ChangeBuilder
{
    private const ON_FIELDS = ['set', 'clear', 'add', 'remove', 'raise', 'prefix', 'suffix'];

    /** With the keys that go with each. */
    private const KINDS = [
        'set' => ['when', 'of'], 'clear' => ['of'], 'add' => ['of'], 'remove' => ['of'], 'raise' => ['of'], 'prefix' => ['of'], 'suffix' => ['of'], 'assign' => ['team', 'when', 'of'],
        'note' => [], 'message' => ['to', 'subject'], 'notify' => [], 'call' => ['endpoint', 'method', 'headers'], 'create' => [], 'refuse' => [],
    ];

    public function __construct(private readonly RuleContext $rule)
    {
    }

    /** @param  array<string, mixed>  $c */
    public function change(array $c, string $path): ?ChangeColumn
    {
        $kinds = array_values(array_intersect(array_keys(self::KINDS), array_keys($c)));
        if (count($kinds) !== 1) {
            $this->rule->book->error($path, sprintf($kinds === [] ? 'A change needs one of: %s.' : 'A change is one of %s, not several.', implode(', ', $kinds === [] ? array_keys(self::KINDS) : $kinds)));

            return null;
        }
        $kind = $kinds[0];
        $this->rule->only($c, $path, sprintf('"%s"', $kind), $kind, ...self::KINDS[$kind]);
        if (in_array($kind, self::ON_FIELDS, true) || $kind === 'assign') {
            return $this->onField($kind, $c, $path);
        }

        return match ($kind) {
            'note' => new NoteChange($c['note']),
            'message' => $this->message($c, $path),
            'notify' => $this->notify($c, $path),
            'call' => $this->call($c, $path),
            'create' => $this->create($c, $path),
            default => new RefuseChange,
        };
    }

    /** @param  array<string, mixed>  $c */
    private function onField(string $kind, array $c, string $path): ?FieldChange
    {
        $of = $c['of'] ?? null;
        $on = null;
        if ($of !== null) {
            if (! array_key_exists($of, $this->rule->held)) {
                $near = Nearest::to($of, array_map(strval(...), array_keys($this->rule->held)));
                $this->rule->book->error($path.'/of', sprintf('There is no look-up "%s"%s', $of, $near === null ? '.' : '; did you mean "'.$near.'"?'));

                return null;
            }
            $on = $this->rule->held[$of];
            if ($on === null) {
                $this->rule->book->error($path.'/of', sprintf('The look-up %s holds no records that could be changed.', $of));

                return null;
            }
        }
        $key = $kind === 'assign' ? 'assignee' : $c[$kind];
        $at = $path.'/'.$kind;
        $field = $on === null ? $this->rule->field($key, $at, true) : $this->rule->book->fieldOf($on, $key, $at, true);
        if ($field === null) {
            return null;
        }
        if ($field->fixed) {
            $this->rule->book->error($at, sprintf($field->isComputed() ? '%s follows from other fields; a rule cannot change it.' : '%s is kept by the desk itself; a rule cannot change it.', $field->label));
        }
        $when = When::from($c['when'] ?? ($kind === 'assign' ? 'empty' : 'always'));
        $this->fits($kind, $field, $when, $path);
        if ($kind === 'assign') {
            return $this->assign($c, $when, $of, $path);
        }

        return match ($kind) {
            'set' => new SetChange($field->key, $when, $of),
            'clear' => new ClearChange($field->key, $of),
            'add' => new AddChange($field->key, $of),
            'remove' => new RemoveChange($field->key, $of),
            'raise' => new RaiseChange($field->key, $of),
            default => new AffixChange($field->key, $kind === 'prefix', $of),
        };
    }

    private function fits(string $kind, Field $field, When $when, string $path): void
    {
        $error = fn (string $key, string $message): null => $this->rule->book->error($path.'/'.$key, $message);
        if (($when === When::Higher || $when === When::Lower) && ($kind === 'assign' || (! $field->type->hasOrder() && ! in_array($field->type->value, ['choice', 'state'], true)))) {
            $error('when', sprintf('%s has no order, so "%s" means nothing.', $field->label, $when->value));
        }
        if (($kind === 'add' || $kind === 'remove') && ! $field->type->isList()) {
            $error($kind, sprintf('%s is not a list; use set.', $field->label));
        }
        if ($kind === 'raise' && ! in_array($field->type, [FieldType::Number, FieldType::Percent], true)) {
            $error($kind, sprintf('%s is no number, so it cannot be raised.', $field->label));
        }
        if (($kind === 'prefix' || $kind === 'suffix') && ! in_array($field->type, [FieldType::Text, FieldType::LongText], true)) {
            $error($kind, sprintf('%s is no plain text, so nothing can be put before or after it.', $field->label));
        }
        if ($kind === 'clear' && ($field->required || $field->key === 'state')) {
            $error('clear', sprintf('%s must not be empty, so it cannot be cleared.', $field->label));
        }
    }

    /** @param  array<string, mixed>  $c */
    private function assign(array $c, When $when, ?string $of, string $path): ?AssignChange
    {
        $team = isset($c['team']) ? $this->rule->teams[$c['team']] ?? null : null;
        if ($team === null) {
            $near = isset($c['team']) ? Nearest::to($c['team'], array_map(strval(...), array_keys($this->rule->teams))) : null;
            $this->rule->book->error($path.(isset($c['team']) ? '/team' : ''), isset($c['team']) ? sprintf('There is no team "%s"%s', $c['team'], $near === null ? '.' : '; did you mean "'.$near.'"?') : 'Say with "team" among whom.');

            return null;
        }
        if ($team->members === []) {
            $this->rule->book->error($path.'/team', sprintf('%s has no members.', $team->name));
        }

        return new AssignChange($c['assign'], $team, $when, $of);
    }

    /** @param  array<string, mixed>  $c */
    private function message(array $c, string $path): ?MessageChange
    {
        foreach (['to', 'subject'] as $key) {
            if (! isset($c[$key])) {
                $this->rule->book->error($path, sprintf('A message needs "%s", a formula.', $key));
            }
        }
        $to = isset($c['to']) ? $this->rule->formula($path.'/to', $c['to']) : null;
        $subject = isset($c['subject']) ? $this->rule->formula($path.'/subject', $c['subject'], new KnownType('text')) : null;

        return $to === null || $subject === null ? null : new MessageChange($to, $subject);
    }

    /** @param  array<string, mixed>  $c */
    private function notify(array $c, string $path): ?NotifyChange
    {
        $people = $this->rule->formula($path.'/notify', $c['notify']);

        return $people === null ? null : new NotifyChange($people);
    }

    /** @param  array<string, mixed>  $c */
    private function call(array $c, string $path): ?CallChange
    {
        $url = $c['endpoint'] ?? null;
        $parts = is_string($url) ? parse_url($url) : false;
        if (! is_array($parts) || ! in_array($parts['scheme'] ?? '', ['http', 'https'], true) || ($parts['host'] ?? '') === '') {
            $this->rule->book->error($path.($url === null ? '' : '/endpoint'), $url === null ? 'A call needs "endpoint", an address.' : 'This is not an address; an example is https://yard.example/orders.');

            return null;
        }
        if (isset($parts['user']) || isset($parts['pass'])) {
            $this->rule->book->error($path.'/endpoint', 'Names and passwords do not belong into an address that everybody reads; an administrator keeps them with the allowed address.');
        }
        $method = strtoupper($c['method'] ?? 'POST');
        if (! in_array($method, CallChange::METHODS, true)) {
            $this->rule->book->error($path.'/method', sprintf('"%s" is not supported; methods are %s.', $method, implode(', ', CallChange::METHODS)));
        }
        foreach ($c['headers'] ?? [] as $name => $value) {
            if (preg_match('~^[A-Za-z0-9-]{1,60}$~', (string) $name) !== 1 || ! is_string($value) || preg_match('~[\r\n]~', $value) === 1) {
                $this->rule->book->error($path.'/headers', sprintf('"%s" is no header with a text on one line.', mb_strimwidth((string) $name, 0, 60, '…')));
            }
        }

        return new CallChange($c['call'], (string) $url, $method, array_map(strval(...), array_filter($c['headers'] ?? [], is_string(...))));
    }

    /** @param  array<string, mixed>  $c */
    private function create(array $c, string $path): ?CreateChange
    {
        [$type] = [...$this->rule->book->typesOf($c['create'], $path.'/create', $this->rule->types), null];

        return $type === null ? null : new CreateChange($type->key);
    }

    public function cell(ChangeColumn $change, Formula $formula, string $path): void
    {
        foreach ($this->rule->on as $i => $type) {
            $names = $this->rule->names[$i];
            $of = $change instanceof FieldChange && $change->of !== null ? $this->rule->held[$change->of] : $type;
            $field = $change instanceof FieldChange ? $of?->fields[$change->field] ?? null : null;
            $this->rule->book->take($path, match (true) {
                $change instanceof ClearChange, $change instanceof AssignChange => FormulaCheck::formula($formula, $names, new KnownType('yes_no')),
                $change instanceof RaiseChange => FormulaCheck::formula($formula, $names, new KnownType('number')),
                $field !== null && ! $change instanceof AffixChange => FormulaCheck::value($formula, $field, $names),
                $change instanceof CallChange => FormulaCheck::formula($formula, $names),
                $change instanceof CreateChange => $this->context($change, $formula, $i, $path),
                default => FormulaCheck::formula($formula, $names, new KnownType('text')),
            });
        }
    }

    /** What is to be created: its fields must be there. */
    private function context(CreateChange $change, Formula $formula, int $i, string $path): \Sorvel\Core\Finding\Checked
    {
        $checked = FormulaCheck::formula($formula, $this->rule->names[$i]);
        $type = $this->rule->types[$change->type];
        if (! in_array($checked->type->what, ['context', 'any', 'null'], true)) {
            $this->rule->book->error($path, sprintf('This must be a context of fields, such as {title: "…"}, not %s.', $checked->type->say()));
        }
        foreach ($checked->type->parts ?? [] as $key => $_) {
            $field = $this->rule->book->fieldOf($type, (string) $key, $path, true);
            if ($field?->fixed === true) {
                $this->rule->book->error($path, sprintf('%s cannot be given.', $field->label));
            }
        }
        foreach ($checked->type->parts === null ? [] : $type->fields as $field) {
            if ($field->required && $field->default === null && ! isset($checked->type->parts[$field->key])) {
                $this->rule->book->error($path, sprintf('A %s needs %s.', mb_strtolower($type->title), $field->label));
            }
        }

        return $checked;
    }
}
