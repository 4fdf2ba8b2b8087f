<?php

declare(strict_types=1);

namespace Sorvel\App\Work;

use Sorvel\Core\Engine\CompiledRules;
use Sorvel\Core\Finding\Book;
use Sorvel\Core\Format\SampleBuilder;
use Sorvel\Core\Replay\Sample;

/**
 * The draft of a long work, built and compiled once in a worker and kept for its next chunks. It is known by what it
 * says: after a backup is put back, another work may have the number of one before.
 */
final class Prepared
{
    private ?string $of = null;

    private ?Book $book = null;

    /** @var list<Sample> */
    private array $samples = [];

    public function book(LongWork $work): Book
    {
        if ($this->of !== $work->draft() || $this->book === null) {
            $this->samples = array_map(fn (array $tree): Sample => SampleBuilder::build($tree), $work->samples());
            $this->book = Book::of($work->rulebook(), $this->samples);
            $this->of = $work->draft();
            CompiledRules::make($this->book->rulebook);
        }

        return $this->book;
    }

    /** @return list<Sample> */
    public function samples(LongWork $work): array
    {
        $this->book($work);

        return $this->samples;
    }
}
