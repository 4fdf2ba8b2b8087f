<?php

declare(strict_types=1);

namespace Sorvel\App\Setup;

use Doctrine\ORM\EntityManagerInterface;
use Psr\Clock\ClockInterface;
use Sorvel\App\People\Person;
use Sorvel\App\People\Role;
use Symfony\Component\Console\Attribute\AsCommand;
use Symfony\Component\Console\Command\Command;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Output\OutputInterface;
use Symfony\Component\DependencyInjection\Attribute\Autowire;
use Symfony\Component\PasswordHasher\Hasher\UserPasswordHasherInterface;

/** Loads the demo desk into an empty database; does nothing when there is a desk. */
#[AsCommand('sorvel:demo', 'Loads the demo desk when there is none.')]
final class DemoCommand extends Command
{
    public const PASSWORD = 'ferry-demo';

    public function __construct(
        private readonly DeskLoader $loader,
        private readonly DemoTickets $tickets,
        private readonly EntityManagerInterface $entities,
        private readonly UserPasswordHasherInterface $hasher,
        private readonly ClockInterface $clock,
        #[Autowire('%kernel.project_dir%')] private readonly string $project,
    ) {
        parent::__construct();
    }

    protected function execute(InputInterface $input, OutputInterface $output): int
    {
        if ($this->loader->hasDesk()) {
            return Command::SUCCESS;
        }
        $output->writeln('Loading the demo desk: Tolvane Ferries.');
        $demo = $this->project.'/demo';
        $roles = ['ines' => Role::Builder, 'hanne' => Role::Publisher, 'greta' => Role::Administrator, 'kit' => Role::Requester];
        $this->loader->load($demo.'/rulebook.yaml', glob($demo.'/samples/*.yaml') ?: [], $roles, 'The rules as the desk opened with them.');
        $hash = null;
        foreach ($this->entities->getRepository(Person::class)->findAll() as $person) {
            $person->takePassword($hash ??= $this->hasher->hashPassword($person, self::PASSWORD));
        }
        $this->entities->flush();
        $this->tickets->make($demo, $this->clock->now());

        return Command::SUCCESS;
    }
}
