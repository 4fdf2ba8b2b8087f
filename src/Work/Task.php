<?php

declare(strict_types=1);

namespace Sorvel\App\Work;

use Sorvel\App\Http\Problem;
use Symfony\Component\DependencyInjection\Attribute\AutoconfigureTag;

/** One kind of long work: one file a kind. */
#[AutoconfigureTag('sorvel.task')]
interface Task
{
    /** The word by which it is asked for. */
    public function kind(): string;

    /** @return list<'rule'|'days'|'edition'> what it may be asked for with */
    public function takes(): array;

    /**
     * Into how many chunks it is parted.
     *
     * @throws Problem when what is asked for cannot be done
     */
    public function chunks(LongWork $work): int;

    /** @return array<string, mixed> what one chunk came to, plain data; chunks may be worked on in any order */
    public function chunk(LongWork $work, int $chunk): array;

    /**
     * What all that is done so far came to.
     *
     * @param  list<array<string, mixed>>  $chunks  in order
     * @return array<string, mixed>
     */
    public function together(LongWork $work, array $chunks): array;
}
