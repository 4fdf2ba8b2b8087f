<?php

declare(strict_types=1);

namespace Sorvel\Core\Finding\Check;

use Sorvel\Core\Finding\Book;
use Sorvel\Core\Finding\Check;
use Sorvel\Core\Finding\Finding;
use Sorvel\Core\Finding\Weight;

/** Look-ups that have to read every record of a type. */
final class WholeTypes implements Check
{
    public function look(Book $book): iterable
    {
        foreach ($book->rules() as $rule) {
            foreach (array_values($rule->lookUps) as $i => $lookUp) {
                if ($lookUp->type !== null && $lookUp->criteria->readsAll()) {
                    yield new Finding(
                        'reads_whole_type', Weight::Attention, 'rules', $rule->key, '/look_ups/'.$i, sprintf('The look-up "%s" of "%s" reads every record of %s.', $lookUp->name, $rule->title, mb_strtolower($lookUp->type->title)),
                        'It takes longer with each record, at every save that makes the rule look.', 'Compare a field of theirs with =, in, <, > or between, outside of any "or", so that an index can answer.',
                    );
                }
            }
        }
    }
}
