<?php

declare(strict_types=1);

namespace Sorvel\App\Setup;

use Sorvel\Core\Format\InvalidInput;
use Symfony\Component\Console\Attribute\AsCommand;
use Symfony\Component\Console\Command\Command;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Output\OutputInterface;

/** Loads a rulebook and samples from files into an empty desk, and publishes them as its first edition. */
#[AsCommand('sorvel:load', 'Loads a rulebook and samples into an empty desk.')]
final class LoadCommand extends Command
{
    public function __construct(private readonly DeskLoader $loader)
    {
        parent::__construct();
    }

    protected function configure(): void
    {
        $this->addArgument('rulebook', InputArgument::REQUIRED)->addArgument('samples', InputArgument::IS_ARRAY);
    }

    protected function execute(InputInterface $input, OutputInterface $output): int
    {
        if ($this->loader->hasDesk()) {
            $output->writeln('This desk already has a rulebook; nothing was changed. Start with --reset --empty for an empty one.');

            return 2;
        }
        $rulebook = $input->getArgument('rulebook');
        $samples = $input->getArgument('samples');
        try {
            $this->loader->load(is_string($rulebook) ? $rulebook : '', is_array($samples) ? array_values(array_filter($samples, is_string(...))) : [], 'Loaded from files.');
        } catch (InvalidInput $invalid) {
            $output->writeln($invalid->getMessage());

            return 2;
        }
        $output->writeln('Loaded and published as edition 1.');

        return Command::SUCCESS;
    }
}
