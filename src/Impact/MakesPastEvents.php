<?php

declare(strict_types=1);

namespace Sorvel\App\Impact;

use Psr\Clock\ClockInterface;
use Sorvel\App\Edition\Editions;
use Sorvel\App\Setup\DemoStory;
use Sorvel\App\Setup\PastStage;
use Sorvel\Core\Impact\PastEvent;
use Symfony\Component\DependencyInjection\Attribute\Autowire;
use Symfony\Component\Messenger\Attribute\AsMessageHandler;

/** Runs the demo desk's own story over twelve months in memory, and keeps what happened. */
#[AsMessageHandler]
final class MakesPastEvents
{
    public function __construct(private readonly PastEvents $events, private readonly Editions $editions, private readonly ClockInterface $clock, #[Autowire('%kernel.project_dir%')] private readonly string $project)
    {
    }

    public function __invoke(MakePastEvents $message): void
    {
        $rulebook = $this->editions->rulebook();
        if ($rulebook === null) {
            return;
        }
        $kept = [];
        $stage = new PastStage($rulebook, function (PastEvent $event) use (&$kept): void {
            $kept[] = [$event, null];
            if (count($kept) === 500) {
                $this->events->keep($kept);
                $kept = [];
            }
        }, $message->count);
        // a ticket is a little more than two events
        $tickets = (int) ceil($message->count / 2.05);
        (new DemoStory($stage))->tell($this->project.'/demo', $this->clock->now()->modify('-90 days'), $tickets, max(1, intdiv(275 * 1440, $tickets)));
        $this->events->keep($kept);
    }
}
