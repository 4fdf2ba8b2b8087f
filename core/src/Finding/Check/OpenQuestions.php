<?php

declare(strict_types=1);

namespace Sorvel\Core\Finding\Check;

use Sorvel\Core\Finding\Book;
use Sorvel\Core\Finding\Check;
use Sorvel\Core\Finding\Finding;
use Sorvel\Core\Finding\Weight;

/** Questions for the business that nobody has answered. */
final class OpenQuestions implements Check
{
    public function look(Book $book): iterable
    {
        foreach ($book->parts('rules') as $rule) {
            foreach (is_array($rule['questions'] ?? null) ? $rule['questions'] : [] as $i => $question) {
                if (trim((string) ($question['answer'] ?? '')) === '') {
                    yield new Finding(
                        'open_question', Weight::Blocking, 'rules', (string) $rule['key'], '/questions/'.$i,
                        sprintf('"%s" has an unanswered question: %s', $rule['title'], $question['ask']),
                        'What the rule does there is a guess until somebody who owns the business decides.',
                        'Ask, write the answer down with the rule, and add a sample for it.',
                    );
                }
            }
        }
    }
}
