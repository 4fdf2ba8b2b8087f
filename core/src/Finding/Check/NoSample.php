<?php

declare(strict_types=1);

namespace Sorvel\Core\Finding\Check;

use Sorvel\Core\Finding\Book;
use Sorvel\Core\Finding\Check;
use Sorvel\Core\Finding\Finding;
use Sorvel\Core\Finding\Weight;

/** Rules that no sample is about. */
final class NoSample implements Check
{
    public function look(Book $book): iterable
    {
        $named = [];
        foreach ($book->samples as $sample) {
            foreach ($sample->rules as $rule) {
                $named[$rule][$sample->proves] = true;
            }
            foreach ($sample->steps as $step) {
                foreach ($step->expect->acted as $rule) {
                    $named[$rule]['act'] = true;
                }
                foreach ($step->expect->still as $rule) {
                    $named[$rule]['stay_still'] = true;
                }
            }
        }
        foreach ($book->rules() as $rule) {
            $proved = $named[$rule->key] ?? [];
            if ($proved === []) {
                yield new Finding(
                    'no_sample', Weight::Attention, 'rules', $rule->key, '', sprintf('No sample is about "%s".', $rule->title),
                    'Nobody has written down what must come out, so nobody notices when it comes out otherwise.', 'Make one from a ticket, or take one that is proposed.',
                );
            } elseif (! isset($proved['stay_still']) && ($rule->onlyIf !== null || $rule->checks !== [])) {
                yield new Finding(
                    'no_still_sample', Weight::Note, 'rules', $rule->key, '', sprintf('No sample shows "%s" staying still.', $rule->title),
                    'That it acts is proved; that it leaves alone what it should is not.', 'Add a sample in which its condition does not hold.',
                );
            }
        }
    }
}
