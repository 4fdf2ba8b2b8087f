<?php

declare(strict_types=1);

namespace Sorvel\App\Setup;

use Doctrine\ORM\EntityManagerInterface;
use Psr\Clock\ClockInterface;
use Sorvel\App\Draft\Draft;
use Sorvel\App\Draft\PartKind;
use Sorvel\App\Impact\MakePastEvents;
use Sorvel\App\Outbox\Addresses;
use Sorvel\App\Outside\OutsideList;
use Sorvel\App\Outside\Refresher;
use Sorvel\App\Outside\Secrets;
use Sorvel\App\Outside\StandInController;
use Sorvel\App\People\Person;
use Symfony\Component\Console\Attribute\AsCommand;
use Symfony\Component\Console\Command\Command;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;
use Symfony\Component\Console\Output\OutputInterface;
use Symfony\Component\DependencyInjection\Attribute\Autowire;
use Symfony\Component\Messenger\MessageBusInterface;
use Symfony\Component\PasswordHasher\Hasher\UserPasswordHasherInterface;

/** Loads the demo desk into an empty database; does nothing when there is a desk. */
#[AsCommand('sorvel:demo', 'Loads the demo desk when there is none.')]
final class DemoCommand extends Command
{
    public const PASSWORD = 'ferry-demo';

    public function __construct(
        private readonly DeskLoader $loader,
        private readonly DeskStage $stage,
        private readonly Draft $draft,
        private readonly MessageBusInterface $bus,
        private readonly EntityManagerInterface $entities,
        private readonly UserPasswordHasherInterface $hasher,
        private readonly ClockInterface $clock,
        private readonly Secrets $secrets,
        private readonly Refresher $refresher,
        private readonly Addresses $addresses,
        #[Autowire('%kernel.project_dir%')] private readonly string $project,
    ) {
        parent::__construct();
    }

    protected function configure(): void
    {
        $this->addOption('year', null, InputOption::VALUE_NONE, 'Also a year of past events, and a draft with a mistake in it.');
    }

    /** The hours from which a fault puts a sailing at risk, with a slip of the finger. */
    private function mistake(): void
    {
        $part = $this->draft->find(PartKind::Rules, 'rank_fault');
        if ($part !== null) {
            $tree = $part->tree();
            $tree['rows'][0]['if'][1] = '> 40';
            $this->draft->save(PartKind::Rules, 'rank_fault', $tree, $part->version(), 'ines');
        }
    }

    protected function execute(InputInterface $input, OutputInterface $output): int
    {
        if ($this->loader->hasDesk()) {
            return Command::SUCCESS;
        }
        $output->writeln('Loading the demo desk: Tolvane Ferries.');
        $demo = $this->project.'/demo';
        $this->loader->load($demo.'/rulebook.yaml', glob($demo.'/samples/*.yaml') ?: [], 'The rules as the desk opened with them.');
        if ($input->getOption('year')) {
            // an edit with a mistake in it, which looking back shows
            $this->mistake();
        }
        $hash = null;
        foreach ($this->entities->getRepository(Person::class)->findAll() as $person) {
            $person->takePassword($hash ??= $this->hasher->hashPassword($person, self::PASSWORD));
        }
        $this->entities->flush();
        (new DemoStory($this->stage))->tell($demo, $this->clock->now());
        // what was told while the demo's past was made has been read by now
        $this->entities->getConnection()->executeStatement('UPDATE notice SET seen_at = at');
        $this->addresses->allow('https://orders.northlight.example', false, true, null);
        $suppliers = new OutsideList('supplier');
        $suppliers->become('{stand-in}/suppliers', '$.data.suppliers[*]', ['supplier_number' => 'ref', 'name' => 'name', 'town' => 'address.town', 'lead_days' => 'terms.lead_days', 'approved' => 'terms.approved'], 'supplier_number', 60, false);
        $suppliers->takeCredentials($this->secrets->encrypt(StandInController::TOKEN));
        $this->entities->persist($suppliers);
        $this->refresher->planNext($suppliers, 0);
        if ($input->getOption('year')) {
            // what there is to look back on
            $this->bus->dispatch(new MakePastEvents(20_000));
        }

        return Command::SUCCESS;
    }
}
