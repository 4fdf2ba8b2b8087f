<?php

declare(strict_types=1);

namespace Sorvel\App\Clock;

use Doctrine\DBAL\Connection;
use Doctrine\Persistence\ManagerRegistry;
use Psr\Log\LoggerInterface;
use Sorvel\App\Outbox\Sender;
use Symfony\Component\Console\Attribute\AsCommand;
use Symfony\Component\Console\Command\Command;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;
use Symfony\Component\Console\Output\OutputInterface;

/** Sends what waits in the outbox, and runs what is due by the clock. Several may run; each thing is done by one of them. */
#[AsCommand('sorvel:clock', 'Sends messages and calls, and starts rules by the clock.')]
final class ClockCommand extends Command
{
    private const MOST_MEMORY = 150_000_000;

    public function __construct(private readonly Sender $sender, private readonly Timetable $timetable, private readonly Connection $database, private readonly ManagerRegistry $doctrine, private readonly LoggerInterface $logger)
    {
        parent::__construct();
    }

    protected function configure(): void
    {
        $this->addOption('once', null, InputOption::VALUE_NONE, 'Ends when nothing is due any more.');
        $this->addOption('seconds', null, InputOption::VALUE_REQUIRED, 'Ends after so many seconds.', '86400');
    }

    protected function execute(InputInterface $input, OutputInterface $output): int
    {
        $seconds = $input->getOption('seconds');
        $end = time() + (is_numeric($seconds) ? (int) $seconds : 86400);
        $stop = false;
        foreach (function_exists('pcntl_signal') ? [SIGTERM, SIGINT] : [] as $signal) {
            pcntl_async_signals(true);
            pcntl_signal($signal, function () use (&$stop): void {
                $stop = true;
            });
        }
        do {
            $sent = 0;
            try {
                $this->timetable->run();
                // a long outbox does not keep the timetable waiting
                for (; $sent < 50 && ! $stop && $this->sender->next(); $sent++) {
                }
            } catch (\Throwable $failure) {
                // the database may be away for a moment; what was not finished is taken up again
                $this->logger->error('The clock stumbled: {why}', ['why' => $failure->getMessage(), 'exception' => $failure]);
                $this->database->close();
                $this->doctrine->resetManager();
            }
            if ($sent === 0) {
                if ($input->getOption('once') === true) {
                    break;
                }
                usleep(400_000);
            }
        } while (! $stop && time() < $end && memory_get_usage() < self::MOST_MEMORY);

        return Command::SUCCESS;
    }
}
