<?php

declare(strict_types=1);

namespace Sorvel\Core\Finding\Check;

use Sorvel\Core\Finding\Book;
use Sorvel\Core\Finding\Check;
use Sorvel\Core\Finding\Finding;
use Sorvel\Core\Finding\Weight;
use Sorvel\Core\Model\Seen;

/** Fields that nothing in the rulebook reads or writes and that nobody is asked for. */
final class IdleFields implements Check
{
    public function look(Book $book): iterable
    {
        $used = [];
        foreach ($book->mentions as $mention) {
            $used[$mention->field->of][$mention->field->key] = true;
        }
        foreach ($book->rulebook->mirrors as $mirror) {
            foreach ($mirror->on as $type) {
                $used[$type][$mirror->field] = true;
            }
        }
        foreach ($book->rulebook->types as $type) {
            $idle = [];
            foreach ($type->fields as $field) {
                $isAsked = $field->question !== null || $field->required || $field->key === $type->nameField || $field->key === 'title';
                if (! isset($used[$type->key][$field->key]) && ! $field->builtIn && $field->active && ! $field->isComputed() && ! $isAsked && $type->isTicket && $field->requester !== Seen::ReadOnly) {
                    $idle[] = $field->label;
                }
            }
            if ($idle !== []) {
                yield new Finding(
                    'idle_fields', Weight::Note, 'types', $type->key, '/fields', sprintf('Nothing in the rulebook reads or writes %s of %s.', Book::and($idle), mb_strtolower($type->title)),
                    'People may fill a field in the belief that something follows from it.', 'If it is for people to read, accept this; else retire it.',
                );
            }
        }
    }
}
