<?php

declare(strict_types=1);

namespace Sorvel\App\Edition;

use Doctrine\ORM\EntityManagerInterface;
use Sorvel\App\Draft\Draft;
use Sorvel\App\Http\Problem;

/**
 * Back to an earlier edition: its rules, tables, guards and mirrors become the draft and, in the same act, the next
 * edition. Types stay as they are, since records live in them; samples stay, since they are what proves it.
 */
final class WayBack
{
    public function __construct(private readonly Editions $editions, private readonly Draft $draft, private readonly Publisher $publisher, private readonly Gate $gate, private readonly EntityManagerInterface $entities)
    {
    }

    public function to(int $number, string $reason, bool $discard, string $by): Edition
    {
        $edition = $this->editions->find($number) ?? throw new Problem(404, sprintf('There is no edition %d.', $number));
        if ($number === $this->editions->currentNumber()) {
            throw new Problem(409, sprintf('The desk runs on edition %d already.', $number));
        }
        if ($reason === '' || mb_strlen($reason) > 2000) {
            throw new Problem(422, 'Going back needs a reason.', 'Say why, for whoever looks at it in a year.', [['pointer' => '/reason', 'detail' => $reason === '' ? 'It must not be empty.' : 'At most 2,000 characters fit.']]);
        }
        $pending = $this->draft->changes();
        if ($pending !== [] && ! $discard) {
            throw new Problem(409, sprintf('The draft has %d %s that are not published and would go.', count($pending), count($pending) === 1 ? 'change' : 'changes'), 'Publish them first, or say that they may go.', [['pointer' => '/discard', 'detail' => 'Needed while the draft has changes.']], ['changes' => $pending]);
        }

        return $this->entities->wrapInTransaction(function () use ($edition, $number, $reason, $by): Edition {
            $this->draft->become($edition->rulebook(), $by);
            $inTheWay = $this->gate->inTheWay();
            $isBlocked = $inTheWay['samples'] !== [] || $inTheWay['findings'] !== [];

            return $this->publisher->publish(sprintf('Back to edition %d: %s', $number, $reason), $by, $isBlocked ? ['reason' => sprintf('Back to edition %d: %s', $number, $reason), ...$inTheWay] : null, $number);
        });
    }
}
