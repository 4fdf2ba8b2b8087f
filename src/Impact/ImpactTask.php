<?php

declare(strict_types=1);

namespace Sorvel\App\Impact;

use Sorvel\App\Http\Problem;
use Sorvel\App\Work\LongWork;
use Sorvel\App\Work\Prepared;
use Sorvel\App\Work\Task;
use Sorvel\Core\Impact\Impact;
use Sorvel\Core\Impact\Tally;

/** Past events through the draft, a thousand a chunk. */
final class ImpactTask implements Task
{
    private const EVENTS = 1000;

    public function __construct(private readonly Prepared $prepared, private readonly PastEvents $events)
    {
    }

    public function kind(): string
    {
        return 'impact';
    }

    public function takes(): array
    {
        return ['days'];
    }

    public function chunks(LongWork $work): int
    {
        [$count, $first, $last] = $this->extent($work);
        if ($count === 0) {
            throw new Problem(422, 'There are no past events to replay.', 'Events are kept from the first save on; those of another desk can be brought in as JSON lines.', [['pointer' => '/days', 'detail' => 'None that are so young.']]);
        }

        return intdiv($last - $first, self::EVENTS) + 1;
    }

    public function chunk(LongWork $work, int $chunk): array
    {
        [, $first, $last] = $this->extent($work);
        $rulebook = $this->prepared->book($work)->rulebook;
        $impact = new Impact($rulebook);
        $tally = new Tally($rulebook);
        $from = $first + $chunk * self::EVENTS;
        foreach ($this->events->between($from, min($last, $from + self::EVENTS - 1)) as $number => $past) {
            $tally->take($past, $impact->of($past), $number);
        }

        return $tally->toArray();
    }

    public function together(LongWork $work, array $chunks): array
    {
        return Tally::join($chunks);
    }

    /** @return array{int, int, int} the same for every chunk, whatever has happened meanwhile */
    private function extent(LongWork $work): array
    {
        $days = $work->asked()['days'] ?? null;
        [$count, $first, $last] = $this->events->extent(is_int($days) ? $work->at()->sub(new \DateInterval(sprintf('P%dD', max(1, min(4000, $days))))) : null);
        $until = $work->asked()['until'] ?? $last;

        return [$count, $first, is_int($until) ? min($until, $last) : $last];
    }
}
