<?php

declare(strict_types=1);

namespace Sorvel\App\Setup;

use Doctrine\ORM\EntityManagerInterface;
use Sorvel\App\People\Person;
use Sorvel\App\People\Role;
use Symfony\Component\Console\Attribute\AsCommand;
use Symfony\Component\Console\Command\Command;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;
use Symfony\Component\Console\Output\OutputInterface;
use Symfony\Component\Console\Style\SymfonyStyle;
use Symfony\Component\PasswordHasher\Hasher\UserPasswordHasherInterface;

/** Makes the first administrator of an empty installation; does nothing when there is one. */
#[AsCommand('sorvel:administrator', 'Makes the first administrator.')]
final class AdministratorCommand extends Command
{
    public function __construct(private readonly EntityManagerInterface $entities, private readonly UserPasswordHasherInterface $hasher)
    {
        parent::__construct();
    }

    protected function configure(): void
    {
        $this->addOption('name', null, InputOption::VALUE_REQUIRED)->addOption('email', null, InputOption::VALUE_REQUIRED);
    }

    protected function execute(InputInterface $input, OutputInterface $output): int
    {
        if ($this->entities->getRepository(Person::class)->count(['role' => Role::Administrator]) > 0) {
            return Command::SUCCESS;
        }
        $style = new SymfonyStyle($input, $output);
        $name = self::text($input->getOption('name') ?? $style->ask('Name of the first administrator'));
        $email = self::text($input->getOption('email') ?? $style->ask('Their email address'));
        $password = self::text(getenv('SORVEL_ADMIN_PASSWORD') ?: $style->askHidden('A password of at least 10 characters'));
        if ($name === '' || filter_var($email, FILTER_VALIDATE_EMAIL) === false || mb_strlen($password) < 10) {
            $output->writeln('The first administrator needs a name, an email address and a password of at least 10 characters: --name, --email, and the password in SORVEL_ADMIN_PASSWORD.');

            return 2;
        }
        $key = trim((string) preg_replace('~[^a-z0-9]+~', '_', strtolower((string) iconv('UTF-8', 'ASCII//TRANSLIT', $name))), '_');
        $person = new Person(preg_match('~^[a-z]~', $key) === 1 ? substr($key, 0, 60) : 'administrator', $name, $email, Role::Administrator);
        $person->takePassword($this->hasher->hashPassword($person, $password));
        $this->entities->persist($person);
        $this->entities->flush();
        $output->writeln(sprintf('%s can sign in as %s.', $name, $email));

        return Command::SUCCESS;
    }

    private static function text(mixed $value): string
    {
        return is_string($value) ? trim($value) : '';
    }
}
